/** What is written beside a delivered thing, so that a later look at a scene knows it again. */
export interface Stamp {
  code: string
  version: number
}
