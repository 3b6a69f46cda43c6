/** Where file bytes live: content-addressed, written once, never changed. */
export interface Storage {
  /** Takes a finished file over (it is moved or copied away) and returns its SHA-256 and size. */
  takeFile(diskPath: string): Promise<StoredFile>
  putBytes(bytes: Uint8Array): Promise<StoredFile>
  /** A path on this machine where the bytes can be read; remote stores fetch them there first. */
  localPath(hash: string): Promise<string>
  /** Whether it can be written at all; throws with a sentence when not. */
  check(): Promise<void>
}

export interface StoredFile {
  hash: string
  size: number
}
