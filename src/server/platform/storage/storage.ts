/** Where file bytes live: content-addressed, written once, never changed. */
export interface Storage {
  /** Takes a finished file over (it is moved or copied away) under its SHA-256. */
  place(hash: string, diskPath: string): Promise<void>
  put(hash: string, bytes: Uint8Array): Promise<void>
  /** A path on this machine where the bytes can be read; remote stores fetch them there first. */
  localPath(hash: string): Promise<string>
  /** Forgets bytes; nothing where there are none. */
  remove(hash: string): Promise<void>
  /** Everything that is kept, in no order. */
  list(): AsyncIterable<{ hash: string; size: number; modifiedAt: Date }>
  /** Whether it can be written at all; throws with a sentence when not. */
  check(): Promise<void>
  /** A folder that every server sees, for uploads on their way. */
  readonly sharedFolder: string
}

export interface StoredFile {
  hash: string
  size: number
}
