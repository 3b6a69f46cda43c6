import type { Page } from '@playwright/test'
import { expect } from 'vitest'
import type { RigList } from '../../src/shared/contracts/rigs.contract'

const DRAFT_PX = 192
/** Error of a final, in steps of an 8-bit display: a quarter of the samples of the house's own. */
const FINAL_STEPS = 4

/** Adopts the house's rigs with smaller drafts and coarser finals: a journey is about the way, and pictures are most of its time. */
export async function previewSmaller(page: Page, base: string): Promise<void> {
  const { rigs } = (await (await page.request.get(`${base}/api/rigs`)).json()) as RigList
  for (const { rig } of rigs) {
    const { name, revision: _, ...change } = rig
    const data = {
      ...change,
      draft: { ...change.draft, width: Math.min(DRAFT_PX, change.draft.width) },
      final: { ...change.final, noiseSteps: FINAL_STEPS },
    }
    const proposed = await page.request.post(`${base}/api/rigs/${name}/proposals`, { data })
    expect(proposed.ok(), await proposed.text()).toBe(true)
    const { id } = (await proposed.json()) as { id: number }
    const adopted = await page.request.post(`${base}/api/rig-proposals/${id}/adoption`)
    expect(adopted.ok(), await adopted.text()).toBe(true)
  }
}
