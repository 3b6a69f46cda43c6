/** Splits `Oak_Plank-BaseColor_2K.png` into words, lower case. */
export function tokenizeName(path: string): string[] {
  const base = path.split('/').pop() ?? path
  return base
    .replace(/\.[a-z0-9]+$/i, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([a-z])(\d+[kK])$/, '$1 $2')
    .toLowerCase()
    .split(/[\s_.\-()]+/)
    .filter(Boolean)
}

/** The words of a name without those that only say a size, such as `2k`. */
export const stemWords = (path: string): string[] => tokenizeName(path).filter(t => !/^\d{1,2}k$/.test(t))

/** The folder that a path lies in, without a slash at its end; empty at the top. */
export const folderOf = (path: string): string => path.split('/').slice(0, -1).join('/')
