// What is no JSON: a file that goes to the server as it is, told how far it is, and bytes for a picture.
import { askForCode } from './entry'
import { ApiError } from './errors'
import type { components } from './schema'

export interface Sending<T> {
  done: Promise<T>
  stop: () => void
}

/** How much of it has gone out, from 0 to 1; 1 while the server reads the rest. */
type Progress = (share: number) => void

export class Stopped extends Error {}

function request<T>(
  method: string,
  url: string,
  body: Blob | null,
  read: (asked: XMLHttpRequest) => T,
  progress?: Progress,
  kind: 'arraybuffer' | 'blob' = 'arraybuffer',
): Sending<T> {
  const asked = new XMLHttpRequest()
  const done = new Promise<T>((resolve, reject) => {
    asked.open(method, url)
    asked.responseType = kind
    if (body) asked.setRequestHeader('Content-Type', 'application/octet-stream')
    if (progress) asked.upload.onprogress = (event) => progress(event.loaded / Math.max(event.total, 1))
    asked.onload = async () => {
      if (asked.status === 401) askForCode()
      if (asked.status >= 200 && asked.status < 300) return resolve(read(asked))
      let problem = {}
      try {
        problem = JSON.parse(await new Blob([asked.response as BlobPart]).text()) as object
      } catch {
        // an answer that is none of ours says nothing
      }
      reject(new ApiError(asked.status, problem as Partial<components['schemas']['Problem']>))
    }
    asked.onerror = () =>
      reject(
        new ApiError(0, { detail: 'The file did not get through. It is still with you: drop it once more.' }),
      )
    asked.onabort = () => reject(new Stopped())
    asked.send(body)
  })
  return { done, stop: () => asked.abort() }
}

const json = <T>(asked: XMLHttpRequest): T =>
  JSON.parse(new TextDecoder().decode(asked.response as ArrayBuffer)) as T

/** Send a file as it is. */
export const sendFile = <T>(url: string, file: Blob, progress: Progress): Sending<T> =>
  request('POST', url, file, (asked) => json<T>(asked), progress)

/** Send a file, and take the one that is made of it. */
export const sendForFile = (url: string, file: Blob, progress: Progress): Sending<Blob> =>
  request('POST', url, file, (asked) => asked.response as Blob, progress, 'blob')

/** Take bytes. */
export const takeBytes = (url: string): Promise<ArrayBuffer> =>
  request('GET', url, null, (asked) => asked.response as ArrayBuffer).done
