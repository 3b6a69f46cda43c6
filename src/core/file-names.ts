/** `Oak_Plank-BaseColor_2K.png` in pieces, as they are written. A capital after a single small letter begins no piece: "eX". */
const splitName = (path: string): string[] =>
  (path.split('/').pop() ?? path)
    .replace(/\.[a-z0-9]+$/i, '')
    .replace(/([A-Za-z][a-z])(?=[A-Z])/g, '$1 ')
    .replace(/([a-z])(\d+[kK])$/, '$1 $2')
    .split(/[\s_.\-()]+/)
    .filter(Boolean)

/** Splits `Oak_Plank-BaseColor_2K.png` into words, lower case. */
export const tokenizeName = (path: string): string[] => splitName(path).map(piece => piece.toLowerCase())

/** The words of a name without those that only say a size, such as `2k`. */
export const stemWords = (path: string): string[] => tokenizeName(path).filter(t => !/^\d{1,2}k$/.test(t))

/** Words of a name with the capitals that mean something there: abbreviations, units, and capitals inside a word. */
export function withCapitals(words: readonly string[], path: string): string[] {
  const pieces = splitName(path)
  // A name that shouts says nothing by its capitals.
  const isShouted = pieces.length > 1 && pieces.every(piece => piece === piece.toUpperCase())
  const written = new Map(pieces.map(piece => [piece.toLowerCase(), piece]))
  return words.map(word => {
    const piece = written.get(word) ?? word
    return !isShouted && /[A-Z].*[A-Z]|[a-z].*[A-Z]|^\d+[A-Z]$/.test(piece) ? piece : word
  })
}

/** The folder that a path lies in, without a slash at its end; empty at the top. */
export const folderOf = (path: string): string => path.split('/').slice(0, -1).join('/')
