/** One condition of a query: what passes it, and how well. */
export interface Clause {
  /** A facet, `word:` with the word, or `color:` with its place. */
  key: string
  /** Not 0 where an item passes. */
  passes: Uint8Array
  grades?: Uint8Array
  scores?: Float32Array
  /** Of a word: the one that it was taken for. */
  takenFor?: string | null
  /** Nobody asked for it; it holds unless somebody asks for something else. */
  isTacit?: boolean
}
