/** Saves a file from the API, and says so if it fails. */
import { App } from 'antd'
import { download } from '../../api/client.ts'
import { errorText } from '../words/error-text.ts'

export function useDownload(): (address: string) => void {
  const { message } = App.useApp()
  return (address) =>
    void download(address).catch((error: unknown) => message.error(errorText(error as Error)))
}
