import type { SceneAudit } from '#files/audits/audit-scene'
import type { PlantedThing } from './make-scene'

export interface AuditScore {
  /** Share of what is not as it should be that was told as what it is. */
  recall: number
  /** Share of what was told as not being as it should that truly is not. */
  precision: number
  /** Share of all things whose class and item are right. */
  right: number
  classes: Record<string, { true: number; found: number; wrong: number }>
  /** A line for each thing that was taken for something else. */
  misses: string[]
}

/** What a thing's name begins with; not every form has blanks in names. */
const keyOf = (name: string): string => name.split(/[ _]/, 1)[0]

/** Compares what an audit says with what was planted. */
export function scoreAudit(
  planted: readonly PlantedThing[],
  audit: Pick<SceneAudit, 'materials' | 'models' | 'lights'>,
): AuditScore {
  const classes: AuditScore['classes'] = {}
  const of = (name: string) => (classes[name] ??= { true: 0, found: 0, wrong: 0 })
  const misses: string[] = []
  let [right, deviating, told, toldRightly] = [0, 0, 0, 0]
  for (const thing of planted) {
    of(thing.class).true++
    const list = { material: audit.materials, model: audit.models, light: audit.lights }[thing.kind]
    const found = list.find(m => keyOf(m.name) === thing.key)
    const isRight = found?.class === thing.class && found.code === thing.code
    if (isRight) {
      right++
      of(thing.class).found++
    } else {
      if (found) of(found.class).wrong++
      const changes = found?.changes.map(c => `${c.what} ${c.from}→${c.to}`).join('; ') ?? ''
      misses.push(
        `${found?.name ?? thing.key}: ${thing.class} ${thing.code ?? ''} ${thing.alteration ?? ''} was taken for ${found ? `${found.class} ${found.code ?? ''} (${changes}) [${found.evidence.map(e => e.kind)}]` : 'nothing'}`,
      )
    }
    if (thing.class !== 'pinned') deviating++
    if (found && found.class !== 'pinned') {
      told++
      if (isRight) toldRightly++
    }
  }
  const ratio = (part: number, whole: number) => (whole > 0 ? part / whole : 1)
  return {
    recall: ratio(toldRightly, deviating),
    precision: ratio(toldRightly, told),
    right: ratio(right, planted.length),
    classes: Object.fromEntries(Object.entries(classes).sort(([a], [b]) => a.localeCompare(b))),
    misses,
  }
}
