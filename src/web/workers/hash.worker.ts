import { createSHA256 } from 'hash-wasm'

export interface HashRequest {
  id: number
  file: Blob
}
export type HashAnswer = { id: number; hash: string } | { id: number; failed: true }

/** SHA-256 of a file, read as a stream: one of many gigabytes takes no more memory than a small one. */
async function hashFile(file: Blob): Promise<string> {
  const sha = await createSHA256()
  sha.init()
  const reader = file.stream().getReader()
  for (;;) {
    const { done, value } = await reader.read()
    if (done) return sha.digest('hex')
    sha.update(value)
  }
}

self.onmessage = async ({ data: { id, file } }: MessageEvent<HashRequest>) => {
  let answer: HashAnswer
  try {
    answer = { id, hash: await hashFile(file) }
  } catch {
    answer = { id, failed: true }
  }
  self.postMessage(answer)
}
