const FARTHEST = 60

/** Codes around a place of the wall, so that the sheet can go to the next and the one before; as far as they were read. */
export function neighboursOf(codeAt: (index: number) => string | undefined, index: number): string[] {
  let first = index
  while (index - first < FARTHEST && codeAt(first - 1) !== undefined) first--
  const codes: string[] = []
  for (let at = first; at <= index + FARTHEST; at++) {
    const code = codeAt(at)
    if (code === undefined) break
    codes.push(code)
  }
  return codes
}
