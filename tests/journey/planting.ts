import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type Page, expect as pageExpect } from '@playwright/test'
import { createSphere } from '../../src/core/geometry/shapes'
import { writeGlb } from '../../src/demo/model-file'
import { expectAccessible } from './accessible'

const see = pageExpect.configure({ timeout: 60_000 })
/** As long as is waited for what is seen. */
const until = <T>(look: () => Promise<T>) => pageExpect.poll(look, { timeout: 60_000 })

/** A shrub is taken in; on a terrace it grows over an area, thicker and otherwise; a sky is turned by dragging a shadow to where it is wanted. */
export async function plantOnTerrace(page: Page, base: string, folder: string): Promise<void> {
  const path = join(folder, 'Low_Shrub.glb')
  const finish = { name: 'leaf', color: [0.1, 0.2, 0.05] as [number, number, number], roughness: 0.6 }
  const foliage = { name: 'foliage', mesh: createSphere(0.35, [0, 0.35, 0], 24), finish }
  await writeFile(path, await writeGlb({ folder: '', stem: 'Low_Shrub', parts: [foliage] }))
  await page.goto(`${base}/intake`)
  await page.getByLabel('Maker or supplier').fill('Oddmere Surfaces')
  await page.locator('input[type=file]').first().setInputFiles(path)
  await see(page.getByLabel('Name of Low shrub')).toBeVisible()
  await page.getByRole('button', { name: 'Accept 1 ready' }).click()
  await see(page.getByText('1 item accepted as a draft.')).toBeVisible()

  await page.goto(`${base}/projects`)
  await page.getByRole('button', { name: 'New mock-up' }).click()
  await page.getByRole('dialog').getByLabel('Title').fill('Bed')
  await page.getByRole('button', { name: /^From/ }).click()
  await page.getByRole('option', { name: 'a terrace on ground' }).click()
  await page.getByRole('button', { name: 'Begin', exact: true }).click()
  const view = page.getByRole('application')
  await see(view).toBeVisible()
  const search = page.getByRole('searchbox', { name: 'Search the library' })
  const shelf = page.getByRole('region', { name: 'Shelf' })
  const card = page.getByRole('region', { name: 'What is chosen' })
  await page.keyboard.press('t')
  await search.fill('shrub')
  await see(shelf.getByRole('button', { name: /Low shrub/ })).toBeVisible()
  await search.press('Enter')
  await see(card).toContainText('Low shrub')
  await search.press('Escape')

  await page.getByRole('button', { name: 'More' }).click()
  await page.getByRole('menuitem', { name: 'Plant an area' }).click()
  const at = (x: number, y: number) => view.boundingBox().then(b => ({ x: b!.x + b!.width * x, y: b!.y + b!.height * y }))
  for (const [x, y] of CORNERS) {
    const corner = await at(x, y)
    await page.mouse.click(corner.x, corner.y)
  }
  await see(page.getByText('4 corners.')).toBeVisible()
  await page.getByRole('button', { name: 'Plant', exact: true }).click()
  const figures = card.getByText(/^\d+ plants? on /)
  const count = async () => Number.parseInt((await figures.textContent())!, 10)
  await see(figures).toBeVisible()
  await expectAccessible(page, 'mock-up, a planting')
  const sparse = await count()
  const density = card.getByLabel('Density')
  await density.fill('6')
  await density.press('Enter')
  await until(count).toBeGreaterThan(2 * sparse)
  const dense = await count()
  await card.getByRole('button', { name: 'Another fall' }).click()
  await page.getByRole('button', { name: /^Undo/ }).click()
  await page.getByRole('button', { name: /^Undo/ }).click()
  await until(count).toBe(sparse)
  await page.getByRole('button', { name: /^Redo/ }).click()
  await until(count).toBe(dense)

  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await search.fill('')
  await page.getByLabel('Kind').click()
  await page.getByRole('option', { name: 'skies' }).click()
  await shelf.getByRole('button', { name: /SKY-/ }).first().click()
  await page.getByRole('button', { name: 'Fold the shelf' }).click()
  await page.keyboard.press('o')
  await page.getByRole('complementary', { name: 'Things in the scene' }).getByRole('button', { name: 'Low shrub' }).click()
  const handle = page.getByRole('button', { name: /^The shadow/ })
  await see(handle).toBeVisible()
  const middle = () => handle.boundingBox().then(b => ({ x: b!.x + b!.width / 2, y: b!.y + b!.height / 2 }))
  const from = await middle()
  const wanted = { x: from.x + 70, y: from.y + 25 }
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(wanted.x, wanted.y, { steps: 5 })
  await page.mouse.up()
  // A shadow is as long as the sun has it; its end lies on the side that was wanted.
  await until(async () => (await middle()).x).toBeGreaterThan(from.x + 5)
  await page.getByRole('button', { name: /^Light: / }).click()
  await see(page.getByLabel('Turn, °', { exact: true })).not.toHaveValue('0')
  await page.keyboard.press('Escape')
  const plants = page.getByRole('button', { name: /^Undo/ })
  await plants.click()
  await until(async () => Math.hypot((await middle()).x - from.x, (await middle()).y - from.y)).toBeLessThan(2)
  await page.getByRole('button', { name: 'More' }).click()
  await page.getByRole('menuitem', { name: /^Schedule of what is in it/ }).click()
  await see(page.getByRole('row', { name: new RegExp(`SHR-.*Low shrub.* ${dense}$`) })).toBeVisible()
}

/** Of the area, as shares of the picture. */
const CORNERS = [
  [0.3, 0.5],
  [0.6, 0.48],
  [0.66, 0.66],
  [0.25, 0.66],
] as const
