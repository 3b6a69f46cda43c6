/** Long enough for any browser to have begun with it. */
const KEPT_MS = 60_000

/** Saves bytes that were made here as a file of the person's. */
export function saveBlob(blob: Blob, fileName: string): void {
  const url = URL.createObjectURL(blob)
  const link = document.createElement('a')
  link.href = url
  link.download = fileName
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), KEPT_MS)
}

/** Brings a file that may be refused: what is too large for a form is told here, and not in place of the page. @returns the problem, if there is one */
export async function download(address: string): Promise<{ data: unknown } | null> {
  const response = await fetch(address).catch(() => null)
  if (!response) return { data: { code: 'internal', message: 'The server does not answer; nothing was saved. Try it again.' } }
  if (!response.ok) return { data: await response.json().catch(() => null) }
  const [, name = 'file'] = /filename="?([^";]+)/.exec(response.headers.get('content-disposition') ?? '') ?? []
  saveBlob(await response.blob(), name)
  return null
}
