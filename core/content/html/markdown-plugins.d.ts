/** Types of two plugins of markdown-it that ship without them. */
declare module 'markdown-it-footnote' {
  const plugin: (markdown: import('markdown-it').default) => void
  export default plugin
}
declare module 'markdown-it-task-lists' {
  const plugin: (markdown: import('markdown-it').default) => void
  export default plugin
}
