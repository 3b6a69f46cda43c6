import type { Takeoff } from './measure-scene'

/** What was measured in one of several, under its title. */
export interface TitledTakeoff {
  title: string
  takeoff: Takeoff
}

/** An open edge is null where nobody measured it; skies and maps are pinned and never measured. */
export type JoinedTakeoff = Omit<Takeoff, 'materials' | 'counted'> & {
  materials: (Omit<Takeoff['materials'][number], 'edgeM'> & { edgeM: number | null })[]
  counted: (Omit<Takeoff['counted'][number], 'kind'> & { kind: Takeoff['counted'][number]['kind'] | 'environment' | 'map' })[]
}

/**
 * What several scenes are made of, together: amounts added up by code, whatever version of it is where, and every place named after its scene.
 * What a model came with counts under its name alone.
 */
export function joinTakeoffs(all: readonly TitledTakeoff[]): JoinedTakeoff {
  const materials = new Map<string, JoinedTakeoff['materials'][number]>()
  const counted = new Map<string, JoinedTakeoff['counted'][number]>()
  const missing = new Set<string>()
  for (const { title, takeoff } of all) {
    for (const { ref, name, areaM2, edgeM, places } of takeoff.materials) {
      const key = ref ? ref.code : `own ${name}`
      const sum = materials.get(key) ?? { ref, name, areaM2: 0, edgeM: 0, places: [] }
      materials.set(key, sum)
      sum.areaM2 += areaM2
      sum.edgeM = (sum.edgeM ?? 0) + edgeM
      const placed = places.map(({ of, part, ...place }) => ({
        ...place,
        of: title,
        part: of === 'Stage' ? part : [of, part].filter(Boolean).join(' '),
        group: title,
      }))
      sum.places.push(...placed)
    }
    for (const thing of takeoff.counted) {
      const key = `${thing.kind} ${thing.ref.code}`
      const sum = counted.get(key) ?? { ...thing, count: 0, scaled: 0, groups: [] }
      counted.set(key, sum)
      sum.count += thing.count
      sum.scaled += thing.scaled
      sum.groups.push(title)
    }
    for (const name of takeoff.missing) missing.add(name)
  }
  return { materials: [...materials.values()], counted: [...counted.values()], missing: [...missing] }
}
