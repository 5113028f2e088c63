// Sends a comment without leaving the page. Without this script the same form works by a plain POST.
document.addEventListener('submit', async (event) => {
  const form = event.target
  if (!(form instanceof HTMLFormElement) || !form.matches('.say')) return
  event.preventDefault()
  const status = form.querySelector('.status')
  const button = form.querySelector('button')
  button.disabled = true
  status.textContent = 'Sending …'
  try {
    const answer = await fetch(form.action, { method: 'POST', body: new URLSearchParams(new FormData(form)) })
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
    const fresh = page.getElementById('comments')
    if (!fresh) throw new Error(page.querySelector('p')?.textContent || 'The comment could not be sent.')
    document.getElementById('comments').replaceWith(fresh)
    const wrong = fresh.querySelector('[aria-invalid]')
    if (wrong) return wrong.focus()
    const added = fresh.querySelector('ol > li:last-child')
    added?.setAttribute('tabindex', '-1')
    added?.focus()
    added?.scrollIntoView({ block: 'center' })
    fresh.querySelector('.status').textContent = 'Thank you. Your comment was added.'
  } catch (error) {
    status.textContent = error instanceof TypeError ? 'The blog does not respond. Your comment is still here. Try again.' : error.message
    button.disabled = false
  }
})
