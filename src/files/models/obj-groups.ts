/** What a program wrote where nothing stands in a group. */
const NO_GROUP = 'default'

/**
 * The objects of an OBJ file that are told to stand in groups: a `g` line with names, the outermost first, right before the `o` line. A `g`
 * line in any other place names a thing by itself.
 * @returns every object in the file's order, with its groups
 */
export function listObjGroups(obj: string): { name: string; groups: string[] }[] {
  return Array.from(obj.matchAll(OBJECT), ([, groups = '', name]) => ({
    name: name.trim(),
    groups: groups.split(/\s+/).filter(group => group !== '' && group !== NO_GROUP),
  }))
}

/** An object's line; with the groups' before it, where nothing but comments stand between the two. */
const OBJECT = /^(?:g[ \t]+([^\r\n]*)\r?\n(?:#[^\r\n]*\r?\n)*)?o[ \t]+([^\r\n]*)/gm
