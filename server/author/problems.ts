/** The problems of writing: content that does not exist, is in use, was saved by someone else, or does not fit. */
import { catalogue, wording } from '../../core/shapes/catalogue.ts'

const count = (number: number, one: string, many: string) => `${number} ${number === 1 ? one : many}`

export const IMPORT_PROBLEMS = catalogue({
  'import-refused': wording(() => ({
    message: 'Nothing was imported, because some files were refused.',
    hint: 'Correct these files, or import the others without them.',
  })),
  'import-stopped': wording(() => ({ message: 'The import was stopped. Nothing was imported.' })),
  'import-too-large': wording(
    (files: number, megabytes: number) => ({
      message: `An import has at most ${files.toLocaleString('en-GB')} files and ${megabytes} MB.`,
      hint: 'Divide it into several.',
    }),
    10_000,
    60,
  ),
  'import-unknown': wording(() => ({
    message: 'This import does not exist any more.',
    hint: 'Send its files again.',
  })),
})

export const COMMENT_PROBLEMS = catalogue({
  'comment-text-empty': wording(() => ({ message: 'The comment is empty.', hint: 'Enter a text.' })),
  'comment-service-unset': wording(() => ({
    message: 'No comment service is declared.',
    hint: 'Set “outside” in the comment rules, or choose a service in Comments → Rules, and save.',
  })),
  'comment-service-key-missing': wording(() => ({
    message: 'The key for the comment service is missing.',
    hint: 'Set COMMENT_SERVICE_KEY to the key that the service gave you, and start again.',
  })),
  'comment-service-too-many': wording(
    (total: number, most: number) => ({
      message: `The comment service has ${total.toLocaleString('en-GB')} comments; at most ${most.toLocaleString('en-GB')} can be copied at once.`,
      hint: 'Export them there in parts, and import the files.',
    }),
    30_000,
    20_000,
  ),
  'comment-service-failed': wording(
    (origin: string, reason: string) => ({
      message: `The request to the comment service at ${origin} failed: ${reason}`,
      hint: 'Nothing was changed in this blog. Retry later, or check the address and the key.',
    }),
    'https://talk.example',
    'it answered 503.',
  ),
})

export const ROW_PROBLEMS = catalogue({
  'text-not-rendered': wording(
    (seconds: number) => ({
      message: `Rendering the Markdown took longer than ${seconds} s and was stopped.`,
      hint: 'Shorten the text, or divide it into several.',
    }),
    5,
  ),
  'row-unknown': wording(
    (kind: string, name: string) => ({ message: `There is no ${kind} “${name}”.` }),
    'post',
    'moth',
  ),
  'version-conflict': wording(
    (what: string) => ({
      message: `Someone else has saved ${what} since you opened it.`,
      hint: 'Compare both versions, then save again.',
    }),
    'this post',
  ),
  'slug-taken': wording(
    (kind: string, slug: string) => ({
      message: `Another ${kind} has the slug “${slug}”.`,
      hint: 'Choose another slug.',
    }),
    'post',
    'moth',
  ),
  'path-taken': wording(
    (path: string) => ({ message: `Another page has the path “${path}”.`, hint: 'Choose another slug.' }),
    'about/people',
  ),
  'title-empty': wording(() => ({ message: 'The title is empty.' })),
  'name-empty': wording(() => ({ message: 'The name is empty.' })),
  'slug-has-slash': wording(
    (kind: string) => ({ message: `The slug of a ${kind} must not contain “/”.` }),
    'tag',
  ),
})

export const REFERENCE_TO_CONTENT_PROBLEMS = catalogue({
  'reference-unknown': wording(
    (kind: string, name: string, known: readonly string[]) => ({
      message: `There is no ${kind} “${name}”.`,
      hint: known.length === 0 ? `Create the ${kind} first.` : `Use one of: ${known.join(', ')}.`,
    }),
    'category',
    'bycicles',
    ['bicycles', 'electrical'],
  ),
  'reference-ambiguous': wording(
    (kind: string, name: string, slugs: readonly string[]) => ({
      message: `More than one ${kind} is named “${name}”.`,
      hint: `Use one of the slugs: ${slugs.join(', ')}.`,
    }),
    'author',
    'Ravi',
    ['ravi', 'ravi-2'],
  ),
})

export const TREE_PROBLEMS = catalogue({
  'tree-cycle': wording(
    (kind: string) => ({ message: `A ${kind} cannot be moved below itself or one of its descendants.` }),
    'category',
  ),
  'tree-parent-unknown': wording(
    (kind: string, name: string) => ({ message: `There is no ${kind} “${name}” to move it below.` }),
    'page',
    'about',
  ),
  'tree-order-changed': wording(
    (name: string) => ({
      message: `“${name}” is no longer next to it, because someone else has changed the order.`,
      hint: 'Move it again.',
    }),
    'electrical',
  ),
})

export const TERM_PROBLEMS = catalogue({
  'term-in-use': wording(
    (kind: string, posts: number) => ({
      message: `${count(posts, 'post uses', 'posts use')} this ${kind}.`,
      hint: `Merge it into another ${kind}, or delete it anyway.`,
    }),
    'category',
    3,
  ),
  'term-merged-into-itself': wording(
    (kind: string) => ({ message: `A ${kind} cannot be merged into itself.` }),
    'tag',
  ),
  'term-merged-into-descendant': wording(
    (name: string) => ({
      message: `“${name}” is below this category.`,
      hint: 'Move it out first, or merge into another category.',
    }),
    'wheels',
  ),
})

export const RESTORE_PROBLEMS = catalogue({
  'restore-unknown': wording(() => ({
    message: 'This can no longer be restored: it was restored already, or its 30 days are over.',
  })),
  'restore-parent-missing': wording(() => ({
    message: 'The parent page does not exist any more.',
    hint: 'Restore the parent page first.',
  })),
  'restore-name-taken': wording(
    (kind: string) => ({
      message: `Another ${kind} has taken its ${kind === 'image' ? 'name' : 'slug'} in the meantime.`,
      hint: `Change that one first, then restore this one.`,
    }),
    'post',
  ),
})

export const IMAGE_PROBLEMS = catalogue({
  'image-empty': wording(() => ({ message: 'The file is empty.' })),
  'image-too-large': wording(
    (limit: number) => ({
      message: `The file is larger than ${limit} MB.`,
      hint: 'Save it smaller: an image on a page needs a few hundred kB.',
    }),
    10,
  ),
  'image-type-unsupported': wording(
    (type: string, supported: string) => ({
      message: `${type} images are not supported.`,
      hint: `Convert it to one of: ${supported}.`,
    }),
    'TIFF',
    'PNG, JPEG, WebP, GIF, SVG',
  ),
  'image-not-an-image': wording(
    (supported: string) => ({
      message: 'The file is not an image.',
      hint: `Supported types, detected from the content: ${supported}.`,
    }),
    'PNG, JPEG, WebP, GIF, SVG',
  ),
  'image-not-read': wording(
    (seconds: number) => ({
      message: `Reading the drawing took longer than ${seconds} s and was stopped.`,
      hint: 'Simplify the drawing, or save it as PNG.',
    }),
    5,
  ),
  'image-damaged': wording(() => ({
    message: 'The image is damaged and cannot be decoded.',
    hint: 'Save or download it again.',
  })),
  'image-side-too-long': wording(
    (width: string, height: string, limit: string) => ({
      message: `The image has ${width} × ${height} pixels; the maximum per side is ${limit}.`,
    }),
    '20,000',
    '400',
    '12,000',
  ),
  'image-too-many-pixels': wording(
    (megapixels: string, limit: string) => ({
      message: `The image has ${megapixels} megapixels; the maximum is ${limit}.`,
    }),
    '60',
    '50',
  ),
  'image-type-differs': wording(
    (name: string, stored: string, sent: string) => ({
      message: `“${name}” is ${stored}, but the new file is ${sent}.`,
      hint: 'Add the file as a new image instead.',
    }),
    'moth.svg',
    'image/svg+xml',
    'image/png',
  ),
  'image-names-exhausted': wording(
    (name: string, limit: number) => ({
      message: `There are already ${limit} images named ${name}.`,
      hint: 'Rename the file.',
    }),
    'moth.svg',
    50,
  ),
})

export const FOLDER_PROBLEMS = catalogue({
  'folder-image-renamed': wording(
    (name: string) => ({
      message: `An image with this content must be named “${name}”.`,
      hint: 'Rename the file.',
    }),
    'moth.svg',
  ),
  'folder-image-location': wording(
    (what: string) => ({
      message: `The photo contains ${what}, which readers could see.`,
      hint: 'Remove it from the file, or upload the photo under Content, Images, where it is removed.',
    }),
    'GPS data',
  ),
  'folder-image-unsafe': wording(
    (what: string) => ({
      message: `The SVG image contains ${what}.`,
      hint: 'Remove everything that runs, loads or embeds.',
    }),
    '<script>',
  ),
  'folder-comment-id-repeated': wording(
    (id: string) => ({ message: `Two comments have the id “${id}”.`, hint: 'Give one of them another id.' }),
    '7',
  ),
  'folder-comment-reply-unknown': wording(
    (id: string) => ({
      message: `No comment before this one, on the same post, has the id “${id}”.`,
      hint: 'Put the reply after the comment that it replies to.',
    }),
    '7',
  ),
  'folder-json-invalid': wording((reason: string) => ({ message: reason }), 'Unexpected end of JSON input.'),
})

export const SAMPLE_PROBLEMS = catalogue({
  'samples-not-empty': wording(
    (what: string) => ({
      message: `The blog has ${what} already, so sample posts are not added.`,
      hint: 'Write or import posts under Content.',
    }),
    'posts',
  ),
})

export const CHANGE_PROBLEMS = catalogue({
  'change-basis-missing': wording(
    (document: string) => ({
      message: `The change of ${document} does not say what it is based on.`,
      hint: 'Send “basis” or “version”.',
    }),
    'routes.yaml',
  ),
  'change-content-delete': wording(
    (document: string) => ({
      message: `${document} cannot be deleted as a document.`,
      hint: 'Delete the post or the page instead.',
    }),
    'content/posts/moth.md',
  ),
})

export const STEP_PROBLEMS = catalogue({
  'step-unknown': wording(() => ({ message: 'There is no such change, or it is no longer kept.' })),
  'step-undone': wording(() => ({ message: 'This change is already undone.' })),
  'step-built-upon': wording(
    (count: number) => ({
      message: `${count === 1 ? 'A later change builds' : `${count} later changes build`} on this one.`,
      hint: 'Undo the later changes first, the latest of them first.',
    }),
    2,
  ),
  'step-not-kept': wording(() => ({
    message: 'A table was emptied by another program, and the rows were not kept.',
    hint: 'Restore them from a backup.',
  })),
  'step-needed': wording(
    (constraint: string) => ({
      message: `Rows that were added since then depend on this change (constraint “${constraint}”).`,
      hint: 'Change or delete them first.',
    }),
    'post_category_fk',
  ),
  'step-name-taken': wording(
    (constraint: string) => ({
      message: `A name or slug that this change gave up is in use again (constraint “${constraint}”).`,
      hint: 'Rename the row that uses it now first.',
    }),
    'post_slug_key',
  ),
})
