import { describe, expect, it } from 'vitest'
import { createMaterial } from '../material/open-pbr'
import { HOUSE_RIGS } from '../render/rigs/house-rigs'
import { measureFidelity } from './measure-fidelity'

const quick = { width: 64, noiseTarget: 0, maxSamples: 8, denoised: false }

describe('the fidelity of targets', () => {
  it('what a target keeps is not rendered again; what it loses shows in the figures', async () => {
    const velvet = createMaterial('velvet', { baseColor: [0.05, 0.02, 0.02], fuzzWeight: 1, fuzzColor: [0.9, 0.5, 0.5] })
    const shares: number[] = []
    const measured = (await measureFidelity(velvet, [], HOUSE_RIGS['material-stage'], share => shares.push(share) > 0, quick))!
    const of = (target: string) => measured.targets.find(t => t.target === target)!
    expect(of('materialX')).toMatchObject({ lost: [], meanFlip: 0, deltaEOfMeans: 0, picture: null })
    expect(of('usdPreviewSurface').lost).toContain('fuzzWeight')
    expect(of('usdPreviewSurface').meanFlip).toBeGreaterThan(0.05)
    expect(of('usdPreviewSurface').p95Flip).toBeGreaterThan(of('usdPreviewSurface').meanFlip)
    expect(of('usdPreviewSurface').deltaEOfMeans).toBeGreaterThan(1)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    expect(await measureFidelity(velvet, [], HOUSE_RIGS['material-stage'], () => false)).toBeNull()
  })
})
