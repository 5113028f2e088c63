/** The problems of previews. */
import { catalogue, wording } from '../../core/shapes/catalogue.ts'

export const PREVIEW_PROBLEMS = catalogue({
  'preview-too-long': wording(
    (path: string, reason: string) => ({
      message: `The preview of ${path} was stopped. ${reason}`,
      hint: 'Choose another address, or look for a loop that does not end. If the machine is busy, try again.',
    }),
    '/posts',
    'It took longer than 8 s.',
  ),
  'building-too-long': wording(
    (reason: string) => ({
      message: `The blog did not answer in time for its steps. ${reason}`,
      hint: 'Walk its pages to find the slow one.',
    }),
    'It took longer than 8 s.',
  ),
  'extract-too-long': wording(
    (reason: string) => ({
      message: `The selection could not be extracted. ${reason}`,
      hint: 'Select less.',
    }),
    'It took longer than 8 s.',
  ),
})
