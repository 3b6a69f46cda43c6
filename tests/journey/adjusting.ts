import { type Page, expect as pageExpect } from '@playwright/test'
import { expectAccessible } from './accessible'

const see = pageExpect.configure({ timeout: 60_000 })

/**
 * In a mock-up of a room with a floor that wears a material, a sky and a rendering: its walls become of a type, its texture is laid along an edge and the material adjusted here alone, a
 * distance is measured, the sky goes out of focus, the rendering is saved with its passes, and the sky lays its ground under things.
 */
export async function adjustAndMeasure(page: Page): Promise<void> {
  const view = page.getByRole('application')
  const card = page.getByRole('region', { name: 'What is chosen' })
  const things = page.getByRole('complementary', { name: 'Things in the scene' })
  await see(view).toHaveAttribute('data-opening', '0')
  await page.keyboard.press('o')
  // Walls of one build-up.
  await things.getByRole('button', { name: 'wall east', exact: true }).click()
  await card.getByLabel('A material goes to').click()
  await page.getByRole('option', { name: 'all named alike here' }).click()
  await card.getByRole('button', { name: 'Type: none' }).click()
  await page.getByRole('option', { name: 'A new one…' }).click()
  await card.getByLabel('Name of the new type').fill('W3')
  await page.keyboard.press('Enter')
  await see(card.getByText(/^4 parts of it/)).toBeVisible()
  await expectAccessible(page, 'mock-up, a type of parts')
  await card.getByLabel('A material goes to').click()
  await see(page.getByRole('option', { name: 'all of type W3' })).toBeVisible()
  await page.getByRole('option', { name: 'this part' }).click()
  await things.getByRole('button', { name: 'floor', exact: true }).click()
  // A room's walls stand along the axes: along the longest of them the texture is turned by none or a quarter, across it by the other.
  const turn = card.getByLabel('Turn of the texture')
  await turn.fill('45')
  await page.keyboard.press('Enter')
  await see(turn).toHaveValue('45')
  await card.getByRole('button', { name: 'Across', exact: true }).click()
  await see(turn).toHaveValue(/^(0|-?90)$/)
  const isQuarter = (await turn.inputValue()) !== '0'
  await card.getByRole('button', { name: 'Along', exact: true }).click()
  await see(turn).toHaveValue(isQuarter ? '0' : /^-?90$/)
  await card.getByText('Adjust it here').click()
  await card.getByLabel('Lighter by, EV').fill('-1')
  await page.keyboard.press('Enter')
  await card.getByLabel('Roughness times').fill('0.5')
  await page.keyboard.press('Enter')
  await see(card.getByText('Adjusted here')).toBeVisible()
  await see(card.getByRole('button', { name: 'Propose it' })).toBeVisible()
  await expectAccessible(page, 'mock-up, a material adjusted')
  await card.getByRole('button', { name: 'As the library has it' }).last().click()
  await see(card.getByLabel('Lighter by, EV')).toHaveValue('0')
  await page.keyboard.press('Escape')
  await page.keyboard.press('o')
  // Two points of the floor.
  await page.keyboard.press('x')
  await view.click({ position: { x: 300, y: 440 } })
  await view.click({ position: { x: 520, y: 460 } })
  await see(page.getByText(/ m {2}· {2}on the level \d/)).toBeVisible()
  await page.keyboard.press('Escape')
  await see(page.getByText(/on the level/)).toHaveCount(0)
  await page.getByRole('button', { name: /^Light: / }).click()
  await page.getByRole('button', { name: /^Behind everything: / }).click()
  await page.getByRole('option', { name: 'blurred' }).click()
  await page.keyboard.press('Escape')
  await page.keyboard.press('i')
  const pictures = page.getByRole('complementary', { name: 'Pictures' })
  await pictures.getByRole('button', { name: 'Save' }).first().click()
  const [exr] = await Promise.all([
    page.waitForEvent('download', { timeout: 120_000 }),
    page.getByRole('menuitem', { name: /passes and masks/ }).click(),
  ])
  pageExpect(exr.suggestedFilename()).toMatch(/-passes\.exr$/)
  await page.keyboard.press('i')
  await page.getByRole('button', { name: /^Light: / }).click()
  await page.getByRole('button', { name: /^Ground under things: / }).click()
  await page.getByRole('option', { name: "the sky's" }).click()
  await page.getByLabel("Height of the panorama's camera over its ground").fill('2')
  await page.keyboard.press('Enter')
  await see(page.getByRole('button', { name: "Ground under things: the sky's" })).toBeVisible()
  await expectAccessible(page, 'mock-up, the ground of a sky', ['label', 'color-contrast', 'button-name'])
  await page.keyboard.press('Escape')
}
