/** What a program wrote where nothing stands in a group. */
const NO_GROUP = 'default'

/**
 * The objects of an OBJ file that are told to stand in groups: a `g` line with names, the outermost first, right before the `o` line. A `g`
 * line in any other place names a thing by itself.
 * @returns every object in the file's order, with its groups
 */
export function listObjGroups(obj: string): { name: string; groups: string[] }[] {
  const objects: { name: string; groups: string[] }[] = []
  let pending: string[] = []
  for (const [line] of obj.matchAll(STATEMENTS)) {
    const rest = line.slice(1).trim()
    if (line.startsWith('g')) pending = rest.split(/\s+/).filter(name => name !== '' && name !== NO_GROUP)
    else {
      if (line.startsWith('o')) objects.push({ name: rest, groups: pending })
      pending = []
    }
  }
  return objects
}

/** Objects and groups, and of faces that there are any. */
const STATEMENTS = /^(?:[og][ \t][^\r\n]*|f(?=[ \t]))/gm
