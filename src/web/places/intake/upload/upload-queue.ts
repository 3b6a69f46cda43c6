import { Upload } from 'tus-js-client'
import { claimFile, findKnownSizes, SENT_AT_ONCE, sendingOptions } from '#shared/sending'
import type { AppDispatch } from '../../../state/store'
import { type UploadProgress, uploadChanged } from '../../../state/uploads.slice'
import { hashFile } from './hash-file'

export interface DroppedFile {
  /** Relative to what was dropped, folders kept. */
  path: string
  file: File
}

const TELL_EVERY_MS = 150

export interface RunningUpload {
  pause: () => void
  resume: () => void
}

/**
 * Sends files into a batch, a few at a time, resumably: a broken line or a closed page goes on where it stopped when the same
 * files are dropped again. A file that is refused does not hold up the others.
 */
export function sendFiles(
  batchId: number,
  dropped: readonly DroppedFile[],
  dispatch: AppDispatch,
  onDone: (refused: ReadonlySet<string>) => void,
  arrivedBefore = 0,
): RunningUpload {
  const progress: UploadProgress = {
    files: dropped.length,
    doneFiles: 0,
    arrivedBefore,
    bytes: dropped.reduce((sum, d) => sum + d.file.size, 0),
    sentBytes: 0,
    knownFiles: 0,
    refused: [],
    state: 'sending',
  }
  const sent = new Map<string, number>()
  const waiting = [...dropped]
  const active = new Set<Upload>()
  let claiming = 0
  let told = 0
  const tell = (now = false) => {
    if (!now && performance.now() - told < TELL_EVERY_MS) return
    told = performance.now()
    progress.sentBytes = [...sent.values()].reduce((a, b) => a + b, 0)
    dispatch(uploadChanged({ batchId, progress: { ...progress, refused: [...progress.refused] } }))
  }
  const settle = (upload: Upload | null) => {
    if (upload) active.delete(upload)
    progress.doneFiles++
    if (progress.doneFiles === progress.files) {
      progress.state = 'done'
      tell(true)
      onDone(new Set(progress.refused.map(r => r.path)))
      return
    }
    tell()
    pump()
  }
  // Without an answer all of it is sent.
  const knownSizes = findKnownSizes(
    postJson,
    batchId,
    dropped.map(d => d.file),
  ).catch(() => new Set<number>())
  /** Bytes that the library has already are not sent again. */
  const isHereAlready = async ({ path, file }: DroppedFile): Promise<boolean> => {
    if (!(await knownSizes).has(file.size)) return false
    const hash = await hashFile(file)
    if (hash === null) return false
    try {
      return await claimFile(postJson, batchId, { path, hash, size: file.size })
    } catch {
      return false
    }
  }
  const begin = async (dropped: DroppedFile) => {
    claiming++
    const isHere = await isHereAlready(dropped)
    claiming--
    if (isHere) {
      sent.set(dropped.path, dropped.file.size)
      progress.knownFiles++
      settle(null)
    } else if (progress.state === 'sending') send(dropped)
    else waiting.unshift(dropped)
  }
  const send = ({ path, file }: DroppedFile) => {
    const upload: Upload = new Upload(file, {
      ...sendingOptions(batchId, path),
      removeFingerprintOnSuccess: true,
      fingerprint: async () => ['muscovite', batchId, path, file.size, file.lastModified].join('/'),
      onProgress: bytes => {
        sent.set(path, bytes)
        tell()
      },
      onSuccess: () => {
        sent.set(path, file.size)
        settle(upload)
      },
      onError: error => {
        progress.refused.push({ path, reason: reasonOf(error) })
        settle(upload)
      },
    })
    active.add(upload)
    upload
      .findPreviousUploads()
      .then(previous => {
        if (previous[0]) upload.resumeFromPreviousUpload(previous[0])
        upload.start()
      })
      .catch(() => upload.start())
  }
  const pump = () => {
    while (progress.state === 'sending' && active.size + claiming < SENT_AT_ONCE && waiting.length > 0)
      void begin(waiting.shift()!)
  }
  tell(true)
  pump()
  return {
    pause: () => {
      progress.state = 'paused'
      for (const upload of active) upload.abort()
      tell(true)
    },
    resume: () => {
      progress.state = 'sending'
      for (const upload of active) upload.start()
      tell(true)
      pump()
    },
  }
}

async function postJson(path: string, body: unknown): Promise<unknown> {
  const response = await fetch(path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  })
  if (!response.ok) throw new Error(`answered with ${response.status}`)
  return response.json()
}

function reasonOf(error: unknown): string {
  const body = (error as { originalResponse?: { getBody: () => string } | null }).originalResponse?.getBody()
  try {
    const { message } = JSON.parse(body ?? '') as { message?: unknown }
    if (typeof message === 'string') return message
  } catch {
    // No sentence came along.
  }
  return 'It could not be sent; drop it again to go on where it stopped.'
}
