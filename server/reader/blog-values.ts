/** What all templates read as `blog`. */
import type { Settings } from '../../core/shapes/schemas.ts'

export const blogValues = (settings: Settings) => ({
  title: settings.title,
  tagline: settings.tagline ?? '',
  origin: settings.origin ?? '',
  language: settings.language ?? 'en',
})
