/** A picker for wall-clock times. It works in UTC, so that the browser's own time zone does not shift them. */
import generateConfig from '@rc-component/picker/generate/dayjs'
import { DatePicker } from 'antd'
import dayjs, { type Dayjs } from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat.js'
import utc from 'dayjs/plugin/utc.js'

dayjs.extend(customParseFormat)
dayjs.extend(utc)

/** As everywhere in the workbench. */
const SHOWN = 'D MMM YYYY, HH:mm'
const WALL = 'YYYY-MM-DDTHH:mm'

const Picker = DatePicker.generatePicker<Dayjs>({
  ...generateConfig,
  getNow: () => dayjs.utc(dayjs().format(WALL)),
  locale: {
    ...generateConfig.locale,
    // Weeks start on Monday (ISO 8601).
    getWeekFirstDay: () => 1,
    getWeekFirstDate: (_, date) => date.subtract((date.day() + 6) % 7, 'day'),
    parse: (_, text, formats) =>
      formats.map((format) => dayjs.utc(text, format, true)).find((one) => one.isValid()) ?? null,
  },
})

interface Props {
  label: string
  /** E.g. `2026-11-20T09:30`. */
  value: string
  change(value: string): void
}

export function DateTimePicker({ label, value, change }: Props) {
  const shown = dayjs.utc(value)
  return (
    <Picker
      aria-label={label}
      className="when"
      format={SHOWN}
      showTime={{ format: 'HH:mm' }}
      showNow={false}
      allowClear={false}
      needConfirm={false}
      value={shown.isValid() ? shown : null}
      onChange={(chosen) => {
        if (chosen) change(chosen.format(WALL))
      }}
    />
  )
}
