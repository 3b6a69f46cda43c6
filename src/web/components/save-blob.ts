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
