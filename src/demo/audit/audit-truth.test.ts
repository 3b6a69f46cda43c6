import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import validator from 'gltf-validator'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type AuditTruth, makeTruth, measureAudit, measureCorrection } from './measure-audit'
import { scoreAudit } from './score-audit'

describe('what an audit says of a scene against what was planted', () => {
  let root: string
  let truth: AuditTruth
  beforeAll(async () => {
    root = await mkdtemp(join(tmpdir(), 'muscovite-audit-'))
    truth = await makeTruth(root, 20_261_128, { materials: 28, models: 18, lights: 8 })
  }, 120_000)
  afterAll(() => rm(root, { recursive: true, force: true }))

  it('is right on a seed that nobody tuned for; a correction puts back what it can, touches nothing else, and is valid glTF', async () => {
    const measured = await measureAudit(truth)
    const { misses, right, planted } = measured
    expect(planted.length).toBe(54)
    expect({ misses, good: right >= 0.95 }).toMatchObject({ good: true })
    const { done, stillWrong, geometryUnchanged, outPath } = await measureCorrection(measured)
    expect(done).toBeGreaterThan(6)
    expect({ stillWrong, geometryUnchanged }).toEqual({ stillWrong: [], geometryUnchanged: true })
    const { issues } = await validator.validateBytes(new Uint8Array(await readFile(outPath)))
    expect(issues.messages.filter(m => m.severity === 0)).toEqual([])
  })

  for (const form of ['usdz', 'obj'] as const)
    it(`is right of a scene that went through ${form}`, async () => {
      const { misses, right, planted } = await measureAudit(truth, form)
      expect(planted.length).toBe(form === 'obj' ? 46 : 54)
      expect({ misses, good: right >= 0.95 }).toMatchObject({ good: true })
    })

  it('is scored thing by thing, by class and item', () => {
    const planted = [
      { key: 't0', kind: 'material' as const, class: 'pinned' as const, code: 'A', alteration: null },
      { key: 't1', kind: 'material' as const, class: 'altered' as const, code: 'B', alteration: 'tint' },
      { key: 't2', kind: 'model' as const, class: 'older' as const, code: 'C', alteration: null },
    ]
    const said = (name: string, c: string, code: string | null) => ({ name, class: c, code, changes: [], evidence: [] }) as never
    const { recall, precision, right, classes, misses } = scoreAudit(planted, {
      materials: [said('t0 x', 'altered', 'A'), said('t1 y', 'altered', 'B')],
      models: [said('t2', 'older', 'D')],
      lights: [],
    })
    expect({ recall, right }).toEqual({ recall: 0.5, right: 1 / 3 })
    expect(precision).toBeCloseTo(1 / 3)
    expect(classes.altered).toEqual({ true: 1, found: 1, wrong: 1 })
    expect(misses).toHaveLength(2)
  })
})
