import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type Page, expect as pageExpect } from '@playwright/test'
import { expectAccessible } from './accessible'

const see = pageExpect.configure({ timeout: 60_000 })

/** A plot of 8 by 6 m with a wall and three blocks of one shape, in millimetres; its floor is called by the code of a house material. */
function writePlot(floor: string): { obj: string; mtl: string } {
  const lines = ['mtllib plot.mtl']
  let vertices = 0
  const box = (name: string, material: string, [x, y, z]: number[], [width, height, depth]: number[]) => {
    lines.push(`o ${name}`)
    for (const [i, j, k] of CORNERS) lines.push(`v ${x + i * width} ${y + j * height} ${z + k * depth}`)
    lines.push(`usemtl ${material}`)
    for (const face of FACES) lines.push(`f ${face.map(i => i + vertices + 1).join(' ')}`)
    vertices += CORNERS.length
  }
  box('floor', floor, [-4000, -50, -3000], [8000, 50, 6000])
  box('wall', 'Putz', [-4000, 0, -3000], [8000, 2600, 200])
  for (const [i, x] of [-2500, 0, 2500].entries()) box(`block_${i}`, 'Platzhalter', [x, 0, 500], [500, 900, 500])
  return {
    obj: `${lines.join('\n')}\n`,
    mtl: [floor, 'Putz', 'Platzhalter'].map(name => `newmtl ${name}\nKd 0.6 0.6 0.55\n`).join('\n'),
  }
}
const CORNERS = [0, 1, 2, 3, 4, 5, 6, 7].map(n => [n & 1, (n >> 1) & 1, n >> 2])
const FACES = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
]

/** A mock-up is begun in a model that is dropped: its materials are decided in the table, its blocks replaced all at once, and it is measured. */
export async function standInOwnModel(page: Page, base: string, folder: string): Promise<void> {
  const { obj, mtl } = writePlot('Boden_TIM-0001')
  const paths = ['plot.obj', 'plot.mtl'].map(name => join(folder, name))
  await writeFile(paths[0], obj)
  await writeFile(paths[1], mtl)
  await page.goto(`${base}/projects/1`)
  await page.getByRole('button', { name: 'New mock-up' }).click()
  await page.getByLabel('Title').fill('Plot')
  await page.getByRole('button', { name: /^From/ }).click()
  await page.getByRole('option', { name: 'a model of your own' }).click()
  await page.getByRole('button', { name: 'Begin', exact: true }).click()
  const stage = page.getByRole('dialog', { name: 'The stage' })
  await stage.getByLabel('Files of a model').setInputFiles(paths)
  const line = stage.getByRole('button', { name: /plot\.obj/ }).first()
  await see(line).toContainText('5 parts, 3 materials')
  await see(line).toContainText('8 × 6 × 2.65 m')
  await see(stage.getByRole('button', { name: /Its lengths are in: millimetres/ })).toBeVisible()
  await expectAccessible(page, 'own model')
  await stage.getByRole('button', { name: 'Stand in it' }).click()

  const materials = page.getByRole('dialog', { name: 'Materials of plot.obj' })
  await see(materials.getByText('0 of 3 are of the house')).toBeVisible()
  await expectAccessible(page, 'materials of a model')
  await materials.getByRole('button', { name: /sure proposal/ }).click()
  await materials
    .getByRole('button', { name: 'Another material for Putz' })
    .or(materials.getByRole('button', { name: 'Find one' }).first())
    .first()
    .click()
  await materials.getByLabel('A material by name or code').fill('TIM-0001')
  await materials.getByLabel('A material by name or code').press('Enter')
  await see(materials.getByText('2 of 3 are of the house')).toBeVisible()
  await materials.getByRole('button', { name: 'Put 2 on' }).click()
  await see(page.getByText('2 materials decided.')).toBeVisible()

  await page.getByRole('button', { name: 'Things' }).click()
  await page.getByRole('button', { name: 'block_1' }).click()
  await page.getByRole('button', { name: 'Put a model in its place' }).click()
  await see(page.getByRole('button', { name: 'For: all 3 like it' })).toBeVisible()
  const search = page.getByLabel('Search the library')
  await search.fill('CHR-0001')
  await page.getByRole('region', { name: 'Shelf' }).getByText('CHR-0001', { exact: true }).click()
  await see(page.getByText(/in the place of 3 things/)).toBeVisible()
  await see(page.getByText('3 parts left out')).toBeVisible()

  await page.getByRole('button', { name: 'More' }).click()
  await page.getByRole('menuitem', { name: /^Schedule of what is in it/ }).click()
  const floor = page.getByRole('row').filter({ hasText: 'TIM-0001' })
  // All sides of the floor, 97.40 m2, and of the wall, 45.84 m2.
  await see(floor).toContainText('143.24')
  await see(page.getByRole('row').filter({ hasText: 'CHR-0001' })).toContainText('3')
  await see(page.getByText('Platzhalter')).toHaveCount(0)
}
