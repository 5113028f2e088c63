/** The changes that can be rehearsed, each made in a transaction that is rolled back. */
import { success, unknown, type Failure, type Outcome } from '../../../core/shapes/outcome.ts'
import type { RehearsedChange } from '../../../contract/cache.ts'
import { ROW_PROBLEMS } from '../../author/problems.ts'
import { changeSlug } from '../../author/slugs/slugs.ts'
import type { Writing } from '../../author/writing.ts'
import { CategoryEntity, CommentEntity, PageEntity, PostEntity } from '../../store/entities/content.ts'

/** What is added to a title or a name if no other is given. */
const CHANGED = ' (changed)'

type OfContent = Exclude<RehearsedChange, { kind: 'template' | 'setting' }>

/** Makes a change. @returns what was changed, in words */
export async function makeChange(writing: Writing, change: OfContent): Promise<Outcome<string>> {
  const { manager } = writing
  switch (change.kind) {
    case 'title': {
      const post = await manager.findOneBy(PostEntity, { slug: change.post })
      if (!post) return unknownRow('post', change.post)
      const title = change.to ?? `${post.title}${CHANGED}`
      await manager.update(PostEntity, { id: post.id }, { title, updatedAt: () => 'now()' })
      return success(`the title of “${post.title}” becomes “${title}”`)
    }
    case 'slug': {
      const to = change.to ?? `${change.post}-2`
      const changed = await changeSlug(writing, { kind: 'post', from: change.post, to })
      return changed.ok ? success(`the slug “${change.post}” becomes “${to}”`) : changed
    }
    case 'publish':
    case 'unpublish': {
      const post = await manager.findOneBy(PostEntity, { slug: change.post })
      if (!post) return unknownRow('post', change.post)
      await manager.query('UPDATE post SET published_at = CASE WHEN $2 THEN now() END WHERE id = $1', [
        post.id,
        change.kind === 'publish',
      ])
      return success(`“${post.title}” is ${change.kind}ed`)
    }
    case 'category': {
      const post = await manager.findOneBy(PostEntity, { slug: change.post })
      const category = await manager.findOneBy(CategoryEntity, { slug: change.category })
      if (!post) return unknownRow('post', change.post)
      if (!category) return unknownRow('category', change.category)
      await manager.update(PostEntity, { id: post.id }, { categoryId: category.id })
      return success(`“${post.title}” moves to category “${category.name}”`)
    }
    case 'comment': {
      const post = await manager.findOneBy(PostEntity, { slug: change.post })
      if (!post) return unknownRow('post', change.post)
      await manager.insert(CommentEntity, {
        postId: post.id,
        name: 'Robin Example',
        text: 'A comment that is only rehearsed.',
      })
      return success(`a comment on “${post.title}” is shown`)
    }
    case 'rename': {
      const category = await manager.findOneBy(CategoryEntity, { slug: change.category })
      if (!category) return unknownRow('category', change.category)
      const name = change.to ?? `${category.name}${CHANGED}`
      await manager.update(CategoryEntity, { id: category.id }, { name })
      return success(`category “${category.name}” becomes “${name}”`)
    }
    case 'move-page': {
      const page = await manager.findOneBy(PageEntity, { path: change.page })
      if (!page) return unknownRow('page', change.page)
      const to = `${change.page}-2`
      const moved = await changeSlug(writing, { kind: 'page', from: change.page, to })
      return moved.ok ? success(`page /${change.page} moves to /${to}`) : moved
    }
    case 'time': {
      const due = (await manager.query(
        'UPDATE post SET published_at = now() WHERE published_at > now() AND published_at <= $1 RETURNING title',
        [change.until],
      )) as [{ title: string }[], number]
      const titles = due[0].map((one) => `“${one.title}”`)
      return success(titles.length === 0 ? 'no post becomes due' : `${titles.join(', ')} becomes due`)
    }
  }
}

const unknownRow = (kind: 'post' | 'page' | 'category', name: string): Failure =>
  unknown({ file: 'content', ...ROW_PROBLEMS['row-unknown'](kind, name) })
