// Sends comments without leaving the page. Without this script the same forms work by a plain POST: the blog answers both
// in the same way, and what is shown here is taken from the page that it returns.
document.addEventListener('submit', async (event) => {
  const form = event.target
  const section = form.closest('#comments')
  if (!section || !form.matches('.say, .own')) return
  event.preventDefault()
  if (form.ariaBusy === 'true') return
  const pressed = event.submitter
  const action = pressed?.value ?? 'add'
  const status = section.querySelector('.status')
  form.ariaBusy = 'true'
  status.textContent = 'Sending …'
  try {
    const fields = new URLSearchParams(new FormData(form, pressed))
    const answer = await fetch(form.action, { method: 'POST', body: fields, signal: AbortSignal.timeout(20_000) })
    const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
    if (!page.getElementById('comments')) throw new Error(page.querySelector('h1 + p, p')?.textContent || section.dataset.offline)
    show(section, page, { answer, action, pressed })
  } catch (error) {
    const isLost = error instanceof TypeError || error.name === 'TimeoutError'
    status.textContent = isLost ? section.dataset.offline : error.message
  } finally {
    form.ariaBusy = null
  }
})

/** Takes over what has changed. What has the focus keeps it. */
function show(section, page, { answer, action, pressed }) {
  const isDone = answer.redirected
  if (isDone)
    for (const old of document.querySelectorAll('[data-live]')) {
      const fresh = page.querySelector(`[data-live="${old.dataset.live}"]`)
      if (fresh) old.replaceWith(fresh.cloneNode(true))
    }
  const form = section.querySelector('#say')
  const fresh = page.getElementById('say')
  const isAdded = isDone && action === 'add' && !form.querySelector('.errors, .preview, .to')
  if (isAdded) {
    form.querySelector('[name=token]').value = fresh.querySelector('[name=token]').value
    form.querySelector('[name=text]').value = ''
  } else if (fresh && (form || !isDone)) {
    const focused = document.activeElement
    form.replaceWith(fresh)
    const same = focused?.id ? document.getElementById(focused.id) : focused?.value ? fresh.querySelector(`[value="${focused.value}"]`) : null
    const first = fresh.querySelector('.errors, .preview')
    if (first) first.focus()
    else if (!isDone || !document.activeElement || document.activeElement === document.body)
      (same ?? fresh.querySelector('[name=text]'))?.focus()
  }
  const status = section.querySelector('.status')
  if (!isDone) {
    status.textContent = ''
    return
  }
  const { pathname, search } = new URL(answer.url)
  history.replaceState(history.state, '', pathname + search)
  // The newest comment of this browser, which it can change.
  const comment = newest(section.querySelectorAll('li:has(> .do .own)')) ?? newest(section.querySelectorAll('li[id]'))
  comment?.scrollIntoView({ block: 'nearest' })
  status.textContent =
    action === 'delete'
      ? section.dataset.deleted
      : action === 'save'
        ? section.dataset.changed
        : comment?.matches('.waiting')
          ? section.dataset.waiting
          : section.dataset.added
}

const numberOf = (item) => Number(item.id.replace('comment-', ''))
const newest = (items) => [...items].sort((a, b) => numberOf(b) - numberOf(a))[0]
