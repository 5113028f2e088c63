/** Reads forms, with their fields as a browser sends them. */
import { markOf } from './mark.ts'
import type { PartReader } from './part.ts'
import type { FormField, ReadForm, ReadPage } from './shape.ts'

const FIELDS = new Set(['input', 'select', 'textarea', 'button'])

export function readForms(): PartReader<Pick<ReadPage, 'forms'>> {
  const forms: ReadForm[] = []
  let form: ReadForm | undefined
  let choice: FormField | undefined
  return {
    part: { forms },
    open({ name, attributes }) {
      const { method = 'get', action = '', type = 'text', value, selected } = attributes
      if (name === 'form')
        forms.push((form = { mark: markOf(attributes), method: method.toLowerCase(), action, fields: [] }))
      if (form && FIELDS.has(name) && attributes['name'] !== undefined) {
        const field = {
          name: attributes['name'],
          type: name === 'input' ? type.toLowerCase() : name,
          value: value ?? '',
          options: [],
        }
        form.fields.push(field)
        if (name === 'select') choice = field
      }
      if (name === 'option' && choice && value !== undefined) {
        if (choice.options.length === 0 || selected !== undefined) choice.value = value
        choice.options.push(value)
      }
    },
    close(name) {
      if (name === 'form') form = undefined
      if (name === 'select') choice = undefined
    },
  }
}
