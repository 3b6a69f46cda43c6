import { chmod, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Browser, type Page, expect as pageExpect } from '@playwright/test'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { encodeMapRecipe, MAP_RECIPES } from '../../src/demo/map-pictures'
import { expectAccessible } from './accessible'
import { openBrowser, openPage } from './browser'
import { zipDelivery } from './deliveries'
import { plantOnTerrace } from './planting'
import { type RunningApp, startApp } from './running-app'
import { previewSmaller } from './small-previews'

/** A studio of one's own: from an empty installation's link to the first approved item, by two people; and a client's team. */

const see = pageExpect.configure({ timeout: 30_000 })
/** For what is worked out in the background, ms: a machine that runs two journeys at once has long queues. */
const PATIENCE = 300_000

let folder: string
let app: RunningApp
let browser: Browser
const trouble: string[] = []
const visit = async (): Promise<Page> => (await openPage(browser, trouble)).page

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-founding-'))
  await chmod(folder, 0o755)
  app = await startApp(join(folder, 'data'), 'off')
  browser = await openBrowser()
}, 180_000)

afterAll(async () => {
  await browser?.close()
  await app?.stop()
  await rm(folder, { recursive: true, force: true })
})

/** A browser says so after its page has. */
const refusedOnce = () => expect.poll(() => trouble.some(t => t.includes('404')), { timeout: 30_000 }).toBe(true)

const PASSWORDS = { ada: 'tide and granite', bo: 'salt and harbour', cy: 'rope and lantern', di: 'gull and harbour wall' }

/** A lead invites somebody; answers with the link's address. */
async function invite(lead: Page, name: string, role: RegExp, team?: string): Promise<string> {
  await lead.getByRole('link', { name: 'People' }).click()
  await lead.getByRole('button', { name: 'Invite somebody' }).click()
  await lead.getByLabel('Name', { exact: true }).fill(name)
  await lead.getByLabel('E-mail address').fill(`${name.toLowerCase().replaceAll(' ', '.')}@greygull.example`)
  await lead.getByRole('button', { name: /^Works as: / }).click()
  await lead.getByRole('option', { name: role }).click()
  if (team) {
    await lead.getByRole('button', { name: /^Teams of client libraries: / }).click()
    await lead.getByRole('option', { name: team }).click()
    await lead.keyboard.press('Escape')
  }
  await lead.getByRole('button', { name: 'Make the link' }).click()
  const address = await lead.getByLabel(`Hand this link to ${name}`).inputValue()
  await lead.getByRole('button', { name: 'Done with the link' }).click()
  return address
}

async function comeIn(address: string, password: string, place = 'Wall'): Promise<Page> {
  const page = await visit()
  await page.goto(address)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Come in' }).click()
  await see(page.getByRole('link', { name: place, exact: true })).toBeVisible()
  return page
}

describe('a studio begins', { timeout: 600_000 }, () => {
  let ada: Page
  let bo: Page

  it('only by the link on the console: nobody is there to sign in as', async () => {
    const stranger = await visit()
    await stranger.goto(app.base)
    await see(stranger.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible()
    await see(stranger.getByText('Pale Harbour')).toHaveCount(0)
    await stranger.goto(`${app.base}/welcome/no-such-link-was-ever-made-here`)
    await see(stranger.getByText('This link does not work any more')).toBeVisible()
    await refusedOnce()
    expect(trouble.splice(0)).toEqual([expect.stringContaining('404')])
    await stranger.context().close()
    const [link] = app.output().match(/http:\/\/\S+\/welcome\/\S+/) ?? []
    expect(link).toContain(app.base)
    ada = await visit()
    await ada.goto(link!)
    await ada.getByLabel('Name of the studio').fill('Grey Gull')
    await ada.getByLabel('Your name').fill('Ada Finn')
    await ada.getByLabel('Your e-mail address').fill('ada@greygull.example')
    await ada.getByLabel('A password').fill('short')
    await ada.getByRole('button', { name: 'Found it' }).click()
    await see(ada.getByText('A password has at least 10 characters.')).toBeVisible()
    await expectAccessible(ada, 'founding')
    await ada.getByLabel('A password').fill(PASSWORDS.ada)
    await ada.getByRole('button', { name: 'Found it' }).click()
    await see(ada.getByRole('heading', { name: 'Intake' })).toBeVisible()
    await ada.goto(link!)
    await see(ada.getByText('This link does not work any more')).toBeVisible()
    await refusedOnce()
    trouble.splice(0)
    await previewSmaller(ada, app.base)
    await ada.goto(app.base)
  })

  it('one lead takes a delivery in, another, who was invited, approves the first item of it', async () => {
    const address = await invite(ada, 'Bo Lind', /library lead/)
    await expectAccessible(ada, 'people')
    bo = await comeIn(address, PASSWORDS.bo)
    await ada.getByRole('link', { name: 'Intake', exact: true }).click()
    await ada.getByLabel('Maker or supplier').fill('Oddmere Surfaces')
    await ada.getByLabel('Licence').fill('All projects')
    await ada
      .locator('input[type=file]')
      .first()
      .setInputFiles(await zipDelivery(folder))
    await see(ada.getByRole('button', { name: 'Accept 2 ready' })).toBeEnabled({ timeout: PATIENCE })
    await ada.getByRole('button', { name: 'Accept 2 ready' }).click()
    await see(ada.getByRole('link', { name: 'CHR-0001' })).toBeVisible()
    // It hangs on the other's wall without a reload.
    await see(bo.locator('[data-chip="CHR-0001"]')).toBeVisible()
    await bo.locator('[data-chip="CHR-0001"] button').first().click()
    await bo.getByRole('button', { name: 'Approve', exact: true }).click()
    await see(bo.getByText('Cube stool is approved.')).toBeVisible()
    await ada.goto(`${app.base}/wall?state=approved`)
    await see(ada.locator('[data-chip="CHR-0001"]')).toBeVisible()
  })

  it("a client's library exists for its team alone, and whoever is let out is out at once", async () => {
    await ada.getByRole('link', { name: 'People' }).click()
    await ada.getByLabel('Title of a new client library').fill('Overseas')
    await ada.getByRole('button', { name: 'Begin it' }).click()
    await see(ada.getByLabel('Title of Overseas')).toBeVisible()
    const cy = await comeIn(await invite(ada, 'Cy Moor', /artist/, 'Overseas'), PASSWORDS.cy)
    await see(cy.getByRole('button', { name: /^Library: every library/ })).toBeVisible()
    await ada.goto(`${app.base}/items/CHR-0001`)
    await ada.getByRole('button', { name: 'Into library' }).click()
    await ada.getByRole('menuitem', { name: 'Copy into Overseas' }).click()
    await see(ada.getByText('copied into Overseas')).toBeVisible()
    await ada.getByRole('button', { name: 'Close' }).click()
    // It comes by itself, with the client's own number, and to the team alone.
    await see(cy.locator('[data-chip="OVE-CHR-0001"]')).toBeVisible()
    await bo.goto(`${app.base}/wall`)
    await see(bo.locator('[data-chip="CHR-0001"]')).toBeVisible()
    await see(bo.locator('[data-chip^="OVE"]')).toHaveCount(0)
    await cy.goto(`${app.base}/items/OVE-CHR-0001`)
    await see(cy.getByRole('link', { name: 'CHR-0001' })).toBeVisible()
    await bo.goto(`${app.base}/people`)
    await see(bo.getByText('Cy Moor')).toBeVisible()
    await see(bo.getByText('Overseas')).toHaveCount(0)
    await bo.getByRole('button', { name: 'What can be done for Cy Moor' }).click()
    await bo.getByRole('menuitem', { name: 'Let out' }).click()
    await see(bo.getByText('let out; what they did stays')).toBeVisible()
    await cy.reload()
    await see(cy.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible()
    await bo.getByRole('button', { name: 'Undo' }).last().click()
    await see(bo.getByText('let out; what they did stays')).toHaveCount(0)
  })

  it('somebody who forgot their password gets a link, and the other browsers are out', async () => {
    await bo.getByRole('button', { name: 'What can be done for Cy Moor' }).click()
    await bo.getByRole('menuitem', { name: 'Make a link for a new password' }).click()
    const address = await bo.getByLabel('Hand this link to Cy Moor').inputValue()
    const cy = await visit()
    await cy.goto(address)
    await see(cy.getByRole('heading', { name: 'A new password' })).toBeVisible()
    await cy.getByLabel('Password').fill('anchor and chain and rust')
    await cy.getByRole('button', { name: 'Come in' }).click()
    await see(cy.getByRole('button', { name: /Cy Moor/ })).toBeVisible()
  })

  it('a guest sees the project that is shown to them, and nothing else', async () => {
    const di = await comeIn(await invite(ada, 'Di Vale', /guest/), PASSWORDS.di, 'Projects')
    await see(di.getByText('No project is shown to you yet.')).toBeVisible()
    await ada.getByRole('link', { name: 'Projects' }).click()
    // The page before has titles of its own.
    await see(ada.getByRole('heading', { name: 'Projects', level: 1 })).toBeVisible()
    await ada.getByLabel('Title', { exact: true }).fill('Ferry hall')
    await ada.getByLabel('Code').fill('FERRY')
    await ada.getByRole('button', { name: 'Begin', exact: true }).click()
    await see(ada.getByText('Nothing is pinned yet.')).toBeVisible()
    await ada.getByRole('button', { name: /^Guests it is shown to/ }).click()
    // A page that is left takes what it was sending with it.
    const saved = ada.waitForResponse(response => response.request().method() !== 'GET' && /projects/.test(response.url()))
    await ada.getByRole('option', { name: 'Di Vale' }).click()
    expect((await saved).ok()).toBe(true)
    await ada.keyboard.press('Escape')
    await ada.goto(`${app.base}/items/CHR-0001`)
    await ada.getByRole('button', { name: 'Into the tray' }).click()
    await ada.getByRole('button', { name: 'Close' }).click()
    await ada.getByRole('button', { name: 'Into project' }).click()
    await ada.getByRole('menuitem', { name: /FERRY/ }).click()
    await see(ada.getByText('1 item pinned in Ferry hall.')).toBeVisible()
    await see(ada.locator('main li img').first()).toBeVisible({ timeout: PATIENCE })
    await di.reload()
    await di.getByRole('link', { name: /Ferry hall/ }).click()
    await see(di.getByRole('button', { name: /^Larger: / })).toHaveCount(1)
    await expectAccessible(di, 'a project as a guest sees it')
    await di.getByRole('button', { name: /^Larger: / }).click()
    await see(di.getByRole('dialog').getByRole('img')).toBeVisible()
    await expectAccessible(di, 'a larger picture')
    await di.goto(`${app.base}/wall`)
    await see(di.getByRole('heading', { name: 'Projects' })).toBeVisible()
    await see(di.getByRole('link', { name: 'Wall', exact: true })).toHaveCount(0)
  })

  it('a sheet becomes its stamps; an artwork is measured by a line, and made into a material', async () => {
    const paths: string[] = []
    for (const [stem, size] of [
      ['Splashes', { width: 512, height: 512 }],
      ['Artwork_Three_Hills', { width: 600, height: 400 }],
    ] as const) {
      const recipe = MAP_RECIPES.find(r => r.stem === stem)!
      paths.push(join(folder, `${stem}.png`))
      await writeFile(paths.at(-1)!, await encodeMapRecipe({ ...recipe, ...size }))
    }
    await ada.goto(`${app.base}/intake`)
    await ada.getByLabel('Maker or supplier').fill('Gullholm Overlays')
    await ada.getByLabel('Licence').fill('All projects')
    await ada.locator('input[type=file]').first().setInputFiles(paths)
    for (const k of [1, 2, 3, 4, 5]) await see(ada.getByLabel(`Name of Splashes ${k}`)).toBeVisible()
    await ada.getByRole('button', { name: 'Measure Artwork three hills on its picture' }).click()
    const picture = ada.locator('[data-measured-picture]')
    await see(ada.getByRole('button', { name: /^First end of the line/ })).toBeVisible()
    // Drawn from a tenth to nine tenths of the way across: four fifths of the picture are 960 mm.
    const at = (await picture.boundingBox())!
    await ada.mouse.move(at.x + at.width * 0.1, at.y + at.height / 2)
    await ada.mouse.down()
    await ada.mouse.move(at.x + at.width * 0.9, at.y + at.height / 2, { steps: 4 })
    await ada.mouse.up()
    await ada.getByLabel('Length of the line').fill('96 cm')
    await see(ada.getByText(/the line has \d+ pixels/)).toBeVisible()
    await expectAccessible(ada, 'measuring by a line')
    await ada.getByRole('button', { name: 'Take this width' }).click()
    await see(ada.getByRole('dialog')).toHaveCount(0)
    const width = ada.getByLabel('Repeat width of Artwork three hills, mm')
    await expect.poll(async () => Math.abs(Number(await width.inputValue()) - 1200), { timeout: 10_000 }).toBeLessThan(12)
    await ada.getByRole('button', { name: 'Accept 6 ready' }).click()
    await see(ada.getByText('6 items accepted as drafts.')).toBeVisible()
    await ada.goto(`${app.base}/wall?kind=map`)
    await see(ada.locator('[data-chip] img')).toHaveCount(6, { timeout: PATIENCE })
    await ada.goto(`${app.base}/items/PIC-0001`)
    await ada.getByRole('button', { name: /^How the map is shown/ }).click()
    await ada.getByRole('option', { name: 'four times four' }).click()
    await see(ada.locator('[data-map-shown="tiled"]')).toBeVisible()
    await expectAccessible(ada, 'a map')
    await ada.getByRole('button', { name: 'Make a material' }).click()
    await see(ada.getByRole('button', { name: 'Make it' })).toBeEnabled()
    await expectAccessible(ada, 'making a material')
    await ada.getByRole('button', { name: 'Make it' }).click()
    await see(ada.getByText('is a material now; PIC-0001 stays as it is.', { exact: false })).toBeVisible()
    await see(ada.getByText('material, version 1')).toBeVisible()
    await see(ada.getByRole('link', { name: 'PIC-0001' })).toBeVisible()
  })

  it('plants shrubs on a terrace, thicker and otherwise, and turns the sky by a shadow', () =>
    plantOnTerrace(ada, app.base, folder))

  it('nothing in the browsers complained', () => {
    // Pages of who is let out go on asking for a moment, and are refused; no file of a version is.
    expect(trouble.filter(t => !/status of 40[14] .*\/api\/(?!versions\/)/.test(t))).toEqual([])
  })
})
