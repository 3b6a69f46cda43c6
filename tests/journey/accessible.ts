import { AxeBuilder } from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { expect } from 'vitest'

/** Nothing that axe finds is more than minor. @param rules all of them, or only some */
export async function expectAccessible(page: Page, place: string, rules?: string[]): Promise<void> {
  // A list that is open hangs outside the page's landmarks, as the pattern has it.
  const isListOpen = (await page.locator('[role="listbox"], [role="menu"]').count()) > 0
  // Of what passes nothing is wanted; and no page here has frames of others, whose findings would be put together on a page of their own.
  const axe = new AxeBuilder({ page })
    .setLegacyMode()
    .options({ resultTypes: ['violations'] })
    .disableRules(isListOpen ? ['region'] : [])
  const { violations } = await atRest(page, () => (rules ? axe.withRules(rules) : axe).analyze())
  expectNone(violations, place)
}

/** Text is told from what is behind it, on a page that has been looked at as a whole before: what looks at it is there already. */
export async function expectContrast(page: Page, place: string): Promise<void> {
  const look = () => (globalThis as unknown as { axe: Axe }).axe.run({ runOnly: ['color-contrast'], resultTypes: ['violations'] })
  const { violations } = await atRest(page, () => page.evaluate(look))
  expectNone(violations, place)
}
interface Axe {
  run: (options: object) => Promise<Pick<Awaited<ReturnType<AxeBuilder['analyze']>>, 'violations'>>
}

/**
 * What is fading in has the contrast of a half-drawn thing, and a message may come while it is looked at. A colour that is inherited goes
 * from one thing to what is in it frame by frame: only what is quiet for several has come to rest.
 */
async function atRest<T>(page: Page, look: () => Promise<T>): Promise<T> {
  await page.emulateMedia({ reducedMotion: 'reduce' })
  await page.evaluate(async () => {
    const isPassing = (a: Animation) =>
      a.playState === 'running' && a.effect?.getComputedTiming().iterations !== Number.POSITIVE_INFINITY
    for (let frame = 0, quiet = 0; frame < 200 && quiet < 6; frame++) {
      await new Promise(requestAnimationFrame)
      quiet = document.getAnimations().some(isPassing) ? 0 : quiet + 1
    }
  })
  const seen = await look()
  await page.emulateMedia({ reducedMotion: null })
  return seen
}

function expectNone(violations: Awaited<ReturnType<AxeBuilder['analyze']>>['violations'], place: string): void {
  const grave = violations.filter(v => v.impact !== 'minor')
  expect(grave.map(v => `${place}: ${v.impact} ${v.id} ${v.nodes.map(n => n.html.slice(0, 200)).join(' | ')}`)).toEqual([])
}

export const SURROUNDS = ['n8', 'n5', 'dark'] as const

/** The grey that a person has chosen around everything, without a new visit. */
export const setSurround = (page: Page, surround: (typeof SURROUNDS)[number]) =>
  page.evaluate(value => {
    document.documentElement.dataset.surround = value
  }, surround)
