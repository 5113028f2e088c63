/** The texts of signing in. */
export const words = {
  title: 'Sign in to the workbench',
  help: 'Esquina prints the access key when it starts, as part of the sign-in address. This browser asks for it once.',
  key: 'Access key',
  signIn: 'Sign in',
  signingIn: 'Signing in …',
} as const
