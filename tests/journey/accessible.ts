import { AxeBuilder } from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { expect } from 'vitest'

/** Nothing that axe finds is more than minor. @param rules all of them, or only some */
export async function expectAccessible(page: Page, place: string, rules?: string[]): Promise<void> {
  // A list that is open hangs outside the page's landmarks, as the pattern has it.
  const isListOpen = (await page.locator('[role="listbox"], [role="menu"]').count()) > 0
  // What is fading in has the contrast of a half-drawn thing, and a message may come while it is looked at.
  await page.emulateMedia({ reducedMotion: 'reduce' })
  await page.evaluate(async () => {
    for (let frame = 0; frame < 2; frame++) await new Promise(requestAnimationFrame)
    const passing = document
      .getAnimations()
      .filter(a => a.playState === 'running' && a.effect?.getComputedTiming().iterations !== Number.POSITIVE_INFINITY)
    await Promise.all(passing.map(a => a.finished.catch(() => {})))
  })
  // Of what passes nothing is wanted; and no page here has frames of others, whose findings would be put together on a page of their own.
  const axe = new AxeBuilder({ page })
    .setLegacyMode()
    .options({ resultTypes: ['violations'] })
    .disableRules(isListOpen ? ['region'] : [])
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze()
  await page.emulateMedia({ reducedMotion: null })
  const grave = violations.filter(v => v.impact !== 'minor')
  expect(grave.map(v => `${place}: ${v.impact} ${v.id} ${v.nodes.map(n => n.html.slice(0, 200)).join(' | ')}`)).toEqual([])
}

export const SURROUNDS = ['n8', 'n5', 'dark'] as const

/** The grey that a person has chosen around everything, without a new visit. */
export const setSurround = (page: Page, surround: (typeof SURROUNDS)[number]) =>
  page.evaluate(value => {
    document.documentElement.dataset.surround = value
  }, surround)
