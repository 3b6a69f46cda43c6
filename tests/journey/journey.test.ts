import { execFile } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { chmod, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { type Browser, type Locator, type Page, expect as pageExpect } from '@playwright/test'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readGltfBinary, writeGltfBinary } from '../../src/core/targets/gltf'
import type { ExportManifest } from '../../src/shared/contracts/hand-over.contract'
import { expectAccessible, expectContrast, SURROUNDS, setSurround } from './accessible'
import { adjustAndMeasure } from './adjusting'
import { openBrowser, openPage } from './browser'
import { zipDelivery, zipFaulty } from './deliveries'
import { standInOwnModel } from './own-model'
import { type RunningApp, startApp } from './running-app'
import { previewSmaller } from './small-previews'

/** One long day: a delivery comes in, is accepted, approved, pinned and exported; an artist looks; the machine is switched off and on. */

const see = pageExpect.configure({ timeout: 30_000 })
/** For what is worked out in the background, ms: a machine that runs two journeys at once has long queues. */
const PATIENCE = 300_000

let folder: string
let app: RunningApp
let browser: Browser
let page: Page
const trouble: string[] = []

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-journey-'))
  await chmod(folder, 0o755)
  app = await startApp(join(folder, 'data'))
  browser = await openBrowser()
  page = (await openPage(browser, trouble)).page
}, 180_000)

afterAll(async () => {
  await browser?.close()
  await app?.stop()
  await rm(folder, { recursive: true, force: true })
})

/** Where the simulated supplier answers, once it has made what it offers: on the next free port after the application's. */
async function findFeed(after: number): Promise<string> {
  const isFeed = (base: string) =>
    fetch(`${base}/offer.json`).then(
      async response => response.ok && 'supplier' in ((await response.json()) as object),
      () => false,
    )
  for (let attempt = 0; attempt < 240; attempt++) {
    for (let port = after + 1; port < after + 6; port++)
      if (await isFeed(`http://127.0.0.1:${port}`)) return `http://127.0.0.1:${port}`
    await new Promise(resolve => setTimeout(resolve, 500))
  }
  throw new Error('The simulated supplier does not answer.')
}

/** Chooses in a list: by its label, and what the entry says. */
async function choose(label: string, entry: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click()
  await page.getByRole('option', { name: entry }).click()
}

/** Chooses how long messages stand, in the person's own menu. */
async function chooseMessageTime(words: string): Promise<void> {
  await page.getByRole('button', { name: /^Ines Quist/ }).click()
  await page.getByRole('menuitem', { name: words }).click()
}

/** Takes back what a message tells of: by its own button, there may be other messages. */
const undoBy = (words: string): Promise<void> =>
  page.locator('[data-sonner-toast]').filter({ hasText: words }).getByRole('button', { name: 'Undo' }).click()

/** Goes on by the tabulator until something has the focus; whatever can be done with the mouse is reached so. */
async function tabTo(target: Locator): Promise<void> {
  await see(target).toBeVisible()
  for (let step = 0; step < 150; step++) {
    if (await target.evaluate(element => element === document.activeElement)) return
    await page.keyboard.press('Tab')
  }
  throw new Error(`${target} is not reached by the tabulator.`)
}

/** Command lines of processes that work in this run's folder. */
const leftovers = (): string[] =>
  readdirSync('/proc')
    .filter(pid => /^\d+$/.test(pid) && Number(pid) !== process.pid)
    .flatMap(pid => {
      try {
        const environment = readFileSync(`/proc/${pid}/environ`, 'latin1')
        return environment.includes(`MUSCOVITE_DATA=${join(folder, 'data')}`) ? [pid] : []
      } catch {
        return []
      }
    })

describe('a day in the samples room', { timeout: 600_000 }, () => {
  it('the lead signs in', async () => {
    await page.goto(app.base)
    await see(page.getByRole('heading', { name: 'Muscovite' })).toBeVisible()
    await expectAccessible(page, 'sign-in')
    await page.getByRole('button', { name: /Ines Quist/ }).click()
    await see(page.getByText('The library is empty.')).toBeVisible()
    await previewSmaller(page, app.base)
  })

  it('takes a zip in: items are recognised and measured, faults are named and set aside', async () => {
    await page.getByRole('link', { name: 'Intake' }).click()
    await page.getByLabel('Maker or supplier').fill('Oddmere Surfaces')
    await page.getByLabel('Licence').fill('All projects')
    await page
      .locator('input[type=file]')
      .first()
      .setInputFiles(await zipDelivery(folder))
    await see(page.getByRole('heading', { name: 'Spring' })).toBeVisible()
    await see(page.getByLabel('Name of Oak test')).toBeVisible()
    await see(page.getByLabel('Name of Cube stool')).toBeVisible()
    await see(page.getByLabel('Name of Clear test sky')).toBeVisible()
    await see(page.getByText(/\d triangles/)).toBeVisible()
    await see(page.getByText(/clear 35°/)).toBeVisible({ timeout: PATIENCE })
    for (const sentence of [
      'The picture breaks off before its end',
      'The file has 0 bytes',
      'Its name says a Radiance HDR picture, its content is a PNG picture.',
      'The archive would write this file outside its own folder',
    ])
      await see(page.getByText(sentence).first()).toBeVisible()
    await expectAccessible(page, 'batch')
  })

  it('gives the missing width and files what is ready', async () => {
    const width = page.getByLabel('Repeat width of Oak test, mm')
    await width.fill('300')
    await width.press('Enter')
    await see(page.getByRole('button', { name: 'Accept 3 ready' })).toBeEnabled()
    await page.getByRole('button', { name: 'Accept 3 ready' }).click()
    await see(page.getByText('3 items accepted as drafts.')).toBeVisible()
    await see(page.getByRole('link', { name: 'TIM-0001' })).toBeVisible()
  })

  it('drops a single sky too', async () => {
    await page.getByRole('link', { name: 'Intake' }).first().click()
    // Who came before comes under the same licence.
    await page.getByLabel('Maker or supplier').fill('Oddmere Surfaces')
    await see(page.getByLabel('Licence')).toHaveValue('All projects')
    // The server refuses the file once: it is named, nothing is sorted without it unasked, and sending it again goes on.
    await page.route('**/api/uploads', route => route.fulfill({ status: 400, json: { message: 'The disk is full.' } }), {
      times: 1,
    })
    await page.locator('input[type=file]').first().setInputFiles(join(folder, 'delivery/Skies/Other_Test_Sky.hdr'))
    await see(page.getByRole('alert')).toContainText('Other_Test_Sky.hdr The disk is full.')
    await see(page.getByText('0 files arrived, 1 did not')).toBeVisible()
    expect(trouble.splice(0)).toEqual([expect.stringContaining('400')])
    await page.getByRole('button', { name: 'Send them again' }).click()
    await see(page.getByLabel('Name of Other test sky')).toBeVisible()
    await page.getByRole('button', { name: 'Accept 1 ready' }).click()
    await see(page.getByText('1 item accepted as a draft.')).toBeVisible()
  })

  it('finds everything on the wall as it is typed, with previews that come by themselves', async () => {
    await page.getByRole('link', { name: 'Wall' }).click()
    await see(page.locator('[data-chip]')).toHaveCount(4)
    await page.keyboard.press('/')
    await page.keyboard.type('oak te')
    await see(page.locator('[data-chip]')).toHaveCount(1)
    await expect.poll(() => page.url(), { timeout: 10_000 }).toContain('words=oak+te')
    await page.reload()
    await see(page.locator('[data-chip]')).toHaveCount(1)
    await page.getByRole('button', { name: 'Clear', exact: true }).click()
    await see(page.locator('[data-chip]')).toHaveCount(4)
    // By keyboard alone: a part of the name is enough.
    await page.getByRole('combobox', { name: /^Category/ }).focus()
    await page.keyboard.type('envir')
    await page.keyboard.press('Enter')
    await see(page.locator('[data-chip]')).toHaveCount(2)
    expect(page.url()).toContain('category=environments')
    await page.getByRole('button', { name: 'Clear', exact: true }).click()
    await see(page.locator('[data-chip] img')).toHaveCount(4, { timeout: PATIENCE })
    await expectAccessible(page, 'wall')
  })

  it('reads the sheet, turns the live view on, and approves', async () => {
    await page.locator('[data-chip="TIM-0001"] button').first().click()
    await see(page.getByRole('heading', { name: 'Oak test' })).toBeVisible()
    expect(page.url()).toContain('/items/TIM-0001')
    await see(page.getByText('300 mm').first()).toBeVisible()
    await see(page.getByText('green points up (OpenGL)')).toBeVisible()
    await see(page.getByText('Every check passed.')).toBeVisible()
    await expectAccessible(page, 'sheet')
    for (const code of ['TIM-0001', 'CHR-0001', 'SKY-0001']) {
      await page.goto(`${app.base}/items/${code}`)
      await page.getByRole('button', { name: 'Turn it' }).click()
      const canvas = page.locator('[data-live-view] canvas')
      await see(canvas).toBeVisible()
      // Something is drawn: the picture has a spread of values, not one flat colour.
      await expect
        .poll(async () => (await sharp(await canvas.screenshot()).stats()).channels[1].stdev, {
          timeout: PATIENCE,
          interval: 1000,
        })
        .toBeGreaterThan(8)
    }
    await turnsAndIsTraced('TIM-0001')
    await turnsAndIsTraced('CHR-0001')
    await page.goto(`${app.base}/items/TIM-0001`)
    await page.getByRole('button', { name: 'Approve', exact: true }).first().click()
    await see(page.getByText('Oak test is approved.')).toBeVisible()
    await page.keyboard.press('Escape')
    await see(page.locator('[data-chip]')).toHaveCount(4)
  })

  /** Turned by a drag it is drawn, traced where one stops, and goes back to its picture. */
  async function turnsAndIsTraced(code: string): Promise<void> {
    await page.goto(`${app.base}/items/${code}`)
    const picture = page.locator('[data-item-view]')
    await see(picture.locator('img')).toBeVisible()
    const { x, y, width, height } = (await picture.boundingBox())!
    await page.mouse.move(x + width / 2, y + height / 2)
    await page.mouse.down()
    await page.mouse.move(x + width / 4, y + height / 2, { steps: 5 })
    await page.mouse.up()
    await see(page.locator('[data-item-view="filtered"], [data-item-view="done"]')).toBeVisible({ timeout: PATIENCE })
    await see(page.getByText(/traced here, error/)).toBeVisible()
    await page.getByRole('button', { name: 'Back to its picture' }).click()
    await see(page.locator('[data-item-view="rig"]')).toBeVisible()
  }

  it('waits for a final and comes closer to its pixels', async () => {
    await page.goto(`${app.base}/items/TIM-0001`)
    await page.getByRole('button', { name: 'Render final' }).click()
    await see(page.getByText(/^final.*768 × 576 px/)).toBeVisible({ timeout: PATIENCE })
    const image = page.getByRole('img', { name: 'Preview of Oak test' })
    const widthOf = async () => (await image.boundingBox())!.width
    const whole = await widthOf()
    await image.dblclick()
    await expect.poll(widthOf).toBeGreaterThan(whole * 2)
    await image.dblclick()
    await expect.poll(widthOf).toBeCloseTo(whole, 0)
    await page.keyboard.press('Escape')
    await see(page.locator('[data-chip]')).toHaveCount(4)
  })

  it('approves the rest from the tray at once', async () => {
    await page.getByRole('button', { name: 'All', exact: true }).click()
    await page.getByRole('menuitem', { name: /^All to tray/ }).click()
    await page.getByRole('region', { name: 'Tray' }).getByRole('button', { name: 'Approve' }).click()
    await see(page.getByText('4 items approved.')).toBeVisible()
    await choose('State', /^approved/)
    await see(page.locator('[data-chip]')).toHaveCount(4)
  })

  it('changes a rig: sees the samples, adopts, and watches previews being replaced', async () => {
    await page.goto(`${app.base}/wall`)
    const picture = () => page.locator('[data-chip="CHR-0001"] img').first().getAttribute('src')
    await see(page.locator('[data-chip="CHR-0001"] img').first()).toBeVisible()
    const before = await picture()
    await page.goto(`${app.base}/standard/rigs/model-three-quarter`)
    await see(page.getByRole('heading', { name: 'Model, three-quarter' })).toBeVisible()
    await page.getByLabel('Round', { exact: true }).fill('900')
    await page.getByRole('button', { name: 'Try on three items' }).click()
    // Past the end of a circle: the field says so, and nothing was tried.
    await see(page.getByRole('alert').first()).toBeVisible()
    await see(page.locator('[data-trial]')).toHaveCount(0)
    await page.getByLabel('Round', { exact: true }).fill('-50')
    await page.getByLabel('Width, px, draft').fill('96')
    await page.getByRole('button', { name: 'Try on three items' }).click()
    const trial = page.locator('[data-trial]')
    await see(trial.getByText('At stake')).toContainText('1 picture')
    await see(trial.locator('img')).toHaveCount(2, { timeout: PATIENCE })
    await expectAccessible(page, 'rig')
    await trial.getByRole('button', { name: 'Adopt' }).click()
    await see(page.getByText(/^Adopted\./)).toBeVisible()
    await page.goto(`${app.base}/wall`)
    await expect.poll(picture, { timeout: PATIENCE, interval: 1000 }).not.toBe(before)
    await see(page.locator('[data-chip="CHR-0001"]').getByLabel('picture of an older rig')).toHaveCount(0)
  })

  it('compares two skies: side by side, wiper, difference in numbers; a picture is saved', async () => {
    await page.goto(`${app.base}/wall?category=environments`)
    await see(page.locator('[data-chip]')).toHaveCount(2)
    await page.getByRole('button', { name: 'All', exact: true }).click()
    await page.getByRole('menuitem', { name: /^All to tray/ }).click()
    await page.getByRole('region', { name: 'Tray' }).getByRole('button', { name: 'Compare' }).click()
    await see(page.locator('[data-compared] canvas')).toHaveCount(2, { timeout: PATIENCE })
    await page.locator('[data-compared] canvas').first().hover()
    await see(page.getByText(/linear .* display/).first()).toBeVisible()
    await expectAccessible(page, 'compare')
    await page.keyboard.press('4')
    expect(page.url()).toContain('view=difference')
    const figure = page.getByRole('region', { name: 'Difference in numbers' }).locator('dd').first()
    await see(figure).toHaveText(/^0\.\d+/)
    expect(Number(await figure.textContent())).toBeGreaterThan(0.01)
    await expectAccessible(page, 'difference')
    await page.keyboard.press('2')
    await see(page.getByLabel('Where the wiper stands')).toBeVisible()
    await page
      .getByRole('button', { name: /^Save the picture/ })
      .first()
      .click()
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: /OpenEXR/ }).click()])
    expect(download.suggestedFilename()).toMatch(/^SKY-0001-v1\.exr$/)
    await page.getByRole('button', { name: 'Empty', exact: true }).click()
  })

  it('tunes a fuzz weight beside the stored picture, and saves it as a version', async () => {
    await page.goto(`${app.base}/items/TIM-0001`)
    await page.getByRole('tab', { name: 'Tune' }).click()
    const tuned = page.locator('[data-tuned] canvas')
    await see(tuned).toBeVisible({ timeout: PATIENCE })
    const brightness = async () => {
      const { channels } = await sharp(await tuned.screenshot()).stats()
      return channels[0].mean + channels[1].mean + channels[2].mean
    }
    await see(page.getByText(/samples a pixel/)).toBeVisible()
    const before = await brightness()
    await page.getByText('Fuzz', { exact: true }).click()
    await page.getByLabel('Fuzz weight, figure').fill('1')
    await see(page.locator('[data-tuned="changed"]')).toBeVisible()
    await expect.poll(brightness, { timeout: PATIENCE, interval: 1000 }).not.toBe(before)
    await expectAccessible(page, 'tune')
    await page.getByRole('button', { name: 'Save as version 2' }).click()
    await see(page.getByText(/Saved as version 2/)).toBeVisible()
    await see(page.getByText('fuzzWeight 0 to 1').first()).toBeVisible()
    await page.getByRole('dialog').getByRole('button', { name: 'Approve', exact: true }).click()
    // Version 1 is approved already: what becomes of it is asked.
    const approval = page.getByRole('dialog', { name: 'Approve version 2' })
    await see(approval.getByText('No project pins it.')).toBeVisible()
    await approval.getByRole('button', { name: 'Approve', exact: true }).click()
    await see(page.getByText('Oak test is approved.')).toBeVisible()
    await page.keyboard.press('Escape')
  })

  it('fixes a faulty delivery in bulk, links what is known, files it, and takes it back', async () => {
    await chooseMessageTime('Messages stay until closed')
    await page.getByRole('link', { name: 'Intake' }).first().click()
    await page
      .locator('input[type=file]')
      .first()
      .setInputFiles(await zipFaulty(folder))
    await see(page.getByRole('heading', { name: 'Second' })).toBeVisible()
    await see(page.getByLabel('Name of Larch grey')).toBeVisible()
    // The oak is there already: nothing of it need be said again.
    await see(page.getByText('To the pixel the same as')).toBeVisible({ timeout: PATIENCE })
    await see(page.getByLabel('Repeat width of Oak test, mm')).toHaveValue('300')
    await choose('Rows shown', /green points down/)
    await see(page.locator('li[data-index]:not([data-sonner-toast])')).toHaveCount(1)
    await page.locator('li[data-index]:not([data-sonner-toast]) button[aria-expanded]:not([aria-haspopup])').click()
    await see(page.getByText('The green channel points down')).toBeVisible()
    await see(page.getByText('fixed', { exact: true })).toBeVisible()
    await expectAccessible(page, 'batch with evidence')
    // Every finding that can be, by keyboard.
    await page.getByRole('button', { name: 'Fix', exact: true }).focus()
    await page.keyboard.press('Enter')
    await see(page.getByRole('menuitem', { name: /green points down/ })).toBeVisible()
    await page.keyboard.press('End')
    await page.keyboard.press('Enter')
    await choose('Rows shown', /what was fixed/)
    await see(page.locator('li[data-index]:not([data-sonner-toast])')).toHaveCount(1)
    await see(page.getByText('green flipped')).toBeVisible()
    await see(page.getByText('The green channel points down')).toHaveCount(0, { timeout: PATIENCE })
    const width = page.getByLabel('Repeat width of Larch grey, mm')
    await see(width).toBeEnabled()
    await width.fill('900')
    await width.press('Enter')
    await choose('Rows shown', /every row/)
    await see(page.getByRole('button', { name: 'Accept 2 ready' })).toBeEnabled()
    await page.getByRole('button', { name: 'Accept 2 ready' }).click()
    await see(page.getByRole('link', { name: 'TIM-0002' })).toBeVisible()
    await undoBy('1 item accepted as a draft, 1 linked to what the library has.')
    await see(page.getByRole('button', { name: 'Accept 2 ready' })).toBeEnabled()
    await page.goto(`${app.base}/wall`)
    await see(page.locator('[data-chip]')).toHaveCount(4)
  })

  it('sorts files by hand and takes it back; the standard asks, and names by its pattern', async () => {
    await page.getByRole('link', { name: 'Intake' }).first().click()
    await page.getByRole('link', { name: /Second/ }).click()
    // A message is a numbered entry of a list as well.
    const rows = page.locator('li[data-index]:not([data-sonner-toast])')
    await see(rows).toHaveCount(2)
    const larch = rows.filter({ has: page.getByLabel('Name of Larch grey') })
    await larch.focus()
    await page.keyboard.press('Enter')
    await larch.getByLabel(/^Choose the file .*normal/).check()
    await larch.getByRole('button', { name: 'Make a row of it' }).click()
    await see(rows).toHaveCount(3)
    await undoBy('The files are a row of their own.')
    await see(rows).toHaveCount(2)
    await page.getByRole('link', { name: 'Standard', exact: true }).click()
    await page.getByRole('button', { name: 'Rules of Timber' }).click()
    await see(page.getByRole('heading', { name: 'All of it is on standard' })).toBeVisible()
    const pattern = page.getByLabel('Name pattern')
    await pattern.fill('{name:title')
    await see(page.getByText('A { has no } after it.')).toBeVisible()
    await pattern.fill('{name:title}')
    await see(page.getByText('For example: Oak Plank Natural')).toBeVisible()
    await expectAccessible(page, 'rules of a category')
    await page.getByRole('button', { name: 'Hold from now on' }).click()
    await page.getByRole('button', { name: 'Rename 1 item by the pattern' }).click()
    await undoBy('1 item renamed.')
    await see(page.getByRole('button', { name: 'Rename 1 item by the pattern' })).toBeVisible()
    await pattern.fill('')
    await page.getByRole('button', { name: 'Hold from now on' }).click()
    // The sentence may still be that of the first time; the button goes when the rules hold.
    await see(page.getByRole('button', { name: 'Rename 1 item by the pattern' })).toHaveCount(0)
    await see(page.getByText('The rules of Timber hold from now on.').last()).toBeVisible()
    await chooseMessageTime('Messages go after 9 seconds')
    await page.goto(`${app.base}/wall`)
    await see(page.locator('[data-chip]')).toHaveCount(4)
  })

  it('gives what the standard asks for, and walks a delivery by keys', async () => {
    await page.getByRole('link', { name: 'Standard', exact: true }).click()
    await page.getByRole('button', { name: 'Rules of Timber' }).click()
    const asked = page.getByLabel('Facts everything here must carry')
    await asked.fill('maker, licence, series')
    await page.getByLabel('Our tags').fill('oak = eiche')
    await page.getByRole('button', { name: 'Hold from now on' }).click()
    await see(page.getByRole('heading', { name: 'Off standard (1)' })).toBeVisible()
    await page.getByLabel('The series of those without').fill('Old barn')
    await page.getByRole('button', { name: 'Give the 1 without' }).click()
    await see(page.getByRole('heading', { name: 'All of it is on standard' })).toBeVisible()
    await page.goto(`${app.base}/items/TIM-0001`)
    await see(page.getByText('Old barn', { exact: true })).toBeVisible()
    await choose('Fact to give', /^Tags/)
    await page.getByLabel('Value of tags').fill('Eiche')
    await page.getByRole('button', { name: 'Give', exact: true }).click()
    await see(page.getByRole('heading', { name: 'Off standard' })).toBeVisible()
    await page.getByRole('button', { name: 'Tag so' }).click()
    await see(page.getByRole('heading', { name: 'Off standard' })).toHaveCount(0)
    await page.goto(`${app.base}/wall?words=eiche`)
    await see(page.locator('[data-chip]')).toHaveCount(1)
    await page.goto(`${app.base}/intake`)
    await page.getByRole('link', { name: /Second/ }).click()
    const larch = page.locator('li[data-index]:not([data-sonner-toast])').filter({ has: page.getByLabel('Name of Larch grey') })
    await larch.focus()
    await page.keyboard.press('s')
    await see(larch.getByRole('button', { name: 'Take back' })).toBeVisible()
    await page.keyboard.press('s')
    await see(larch.getByRole('button', { name: 'Set aside' })).toBeVisible()
    await page.keyboard.press('Space')
    await page.getByRole('button', { name: 'Files' }).click()
    await page.getByRole('menuitem', { name: /height/ }).click()
    await see(page.getByRole('heading', { name: /Not in any item/ })).toBeVisible()
    await page.getByRole('button', { name: 'Into Larch grey' }).first().click()
    await see(page.getByRole('heading', { name: /Not in any item/ })).toHaveCount(0)
    await page.goto(`${app.base}/standard`)
    await page.getByRole('button', { name: 'Rules of Timber' }).click()
    await asked.fill('')
    await page.getByLabel('Our tags').fill('')
    await page.getByRole('button', { name: 'Hold from now on' }).click()
    await see(page.getByText('The rules of Timber hold from now on.').last()).toBeVisible()
    await page.goto(`${app.base}/wall`)
    await see(page.locator('[data-chip]')).toHaveCount(4)
  })

  it('takes a thing from a supplier’s feed; broken downloads go on, and what is newer or gone is told', async () => {
    const feed = await findFeed(Number(new URL(app.base).port))
    const tell = (control: object) =>
      fetch(`${feed}/control`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(control),
      })
    await tell({ upToVersion: 1, failure: 'cut', matching: 'basecolor', times: 1 })
    await page.getByRole('link', { name: 'Intake' }).first().click()
    await page.getByLabel("Address of a supplier's feed").fill(feed)
    await page.getByRole('button', { name: 'Add the feed' }).click()
    await see(page.getByRole('heading', { name: 'Oddmere Surfaces' })).toBeVisible()
    await page.getByLabel('Search the offer').fill('fumed')
    await page.getByLabel('Choose Oak plank, fumed').check()
    await expectAccessible(page, 'feed')
    await page.getByRole('button', { name: /^Take 1 thing in/ }).click()
    await see(page.getByLabel('Name of Oak plank, fumed')).toBeVisible({ timeout: PATIENCE })
    await tell({})
    await page.getByRole('link', { name: 'Intake' }).first().click()
    await page.getByRole('link', { name: /Oddmere Surfaces.*on offer/ }).click()
    await see(page.getByText('newer version than 1')).toBeVisible()
    await page.getByLabel('Search the offer').fill('brass')
    await see(page.getByRole('listitem').filter({ hasText: 'Brass, hammered' })).toContainText('withdrawn')
  })

  it('begins a project and carries the tray into it', async () => {
    await page.getByRole('link', { name: 'Projects' }).click()
    await page.getByLabel('Title').fill('Ferry hall')
    await page.getByLabel('Code').fill('ferry')
    await page.getByRole('button', { name: 'Begin' }).click()
    await see(page.getByText('Nothing is pinned yet.')).toBeVisible()
    await page.getByRole('link', { name: 'Wall', exact: true }).click()
    // By keyboard alone: to the first chip, into the tray, a range up to the last.
    await page.locator('[data-chip] button').first().focus()
    await page.keyboard.press('Space')
    for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
    await page.keyboard.press('Shift+Space')
    await see(page.getByRole('region', { name: 'Tray' })).toContainText('4')
    await page.getByRole('button', { name: 'Into project' }).click()
    await page.getByRole('menuitem', { name: /Ferry hall/ }).click()
    await see(page.getByText('4 items pinned in Ferry hall.')).toBeVisible()
    await see(page.getByRole('heading', { name: /Ferry hall/ })).toBeVisible()
    await expectAccessible(page, 'project')
  })

  it('says how a renderer wants its files, and what a licence lets out', async () => {
    const project = page.url()
    await page.getByRole('link', { name: 'Standard', exact: true }).click()
    await page.getByRole('link', { name: 'Profiles of hand-overs' }).click()
    await page.getByRole('button', { name: 'A new profile' }).click()
    // Its own fields stand there now, and not those of the profile that was shown before.
    await see(page.getByRole('button', { name: 'Keep the profile' })).toBeVisible()
    await page.getByLabel('Name', { exact: true }).fill('Quay')
    await choose('Models as', 'OpenUSD packages')
    await choose('Lengths in', 'centimetres')
    await choose('Largest side', '512 px')
    await page.getByLabel('Names of textures').fill('{code} {name}')
    await see(page.getByText('Without {map}, outside of brackets, two files would have one name.')).toBeVisible()
    await see(page.getByRole('button', { name: 'Keep the profile' })).toBeDisabled()
    await page.getByLabel('Names of textures').fill('{code:lower} {map}')
    await page.getByRole('button', { name: 'Keep the profile' }).click()
    await see(page.getByRole('button', { name: /^Quay/ })).toHaveAttribute('aria-current', 'true')
    await expectAccessible(page, 'profiles')
    await page.getByRole('link', { name: 'Standard', exact: true }).first().click()
    await page.getByRole('link', { name: 'Licences', exact: true }).click()
    await choose('What “All projects” covers', 'nothing leaves the house')
    await see(page.getByText('“All projects” is said anew.')).toBeVisible()
    await expectAccessible(page, 'licences')
    await page.goto(project)
    await see(page.getByText('4 items stay behind:')).toBeVisible()
    await page.goto(`${app.base}/standard/licences`)
    await choose('What “All projects” covers', 'every project')
    await see(page.getByText('“All projects” is said anew.')).toBeVisible()
    await page.goto(project)
    await see(page.getByRole('button', { name: 'Write the zip' })).toBeEnabled()
    await see(page.getByText('stay behind')).toHaveCount(0)
  })

  it('downloads the delivery: everything that the manifest names is in it', async () => {
    const project = page.url()
    await choose('Profile', 'Quay')
    await page.getByRole('button', { name: 'Write the zip' }).click()
    const link = page.getByRole('link', { name: /MB|KB/ })
    await see(link).toBeVisible({ timeout: PATIENCE })
    const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
    expect(download.suggestedFilename()).toMatch(/^FERRY-export-\d+\.zip$/)
    const entries = unzipSync(new Uint8Array(await readFile(await download.path())))
    const manifest = JSON.parse(new TextDecoder().decode(entries['manifest.json'])) as ExportManifest
    expect(manifest.items.map(i => i.code).sort()).toEqual(['CHR-0001', 'SKY-0001', 'SKY-0002', 'TIM-0001'])
    expect(manifest.items.find(i => i.code === 'TIM-0001')).toMatchObject({
      licence: 'All projects',
      widthMm: 300,
      target: 'MaterialX 1.39',
    })
    for (const file of manifest.items.flatMap(i => i.files)) expect(entries[file.path]?.length).toBe(file.bytes)
    expect(Object.keys(entries).filter(path => path.endsWith('.usdz'))).toHaveLength(1)
    expect(Object.keys(entries).some(path => path.endsWith('/textures/tim_0001_baseColor.png'))).toBe(true)
    // On another machine, with the manifest alone: everything is brought, and then is there.
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-elsewhere-'))
    await writeFile(join(folder, 'manifest.json'), entries['manifest.json'])
    const muscovite = (...args: string[]) => promisify(execFile)(process.execPath, ['dist/node/muscovite.js', ...args])
    await expect(muscovite('verify', folder)).rejects.toMatchObject({ code: 1 })
    const brought = await muscovite('fetch', folder, '--server', app.base)
    expect(brought.stdout).toMatch(/(\d+) of \1 files were brought/)
    expect((await muscovite('verify', folder)).stdout).toContain('files are there as they were handed over')
    // The desk tells what lies on it, and the wall narrows by it.
    const told = await muscovite('desk', folder, '--name', 'Studio 4', '--server', app.base)
    expect(told.stdout).toContain('4 items of the library lie on Studio 4')
    await page.goto(`${app.base}/wall?desk=here`)
    await see(page.locator('[data-chip]')).toHaveCount(4)
    await page.goto(`${app.base}/wall?desk=none|older|damaged`)
    await see(page.getByText('Nothing is all of this.')).toBeVisible()
    // The same in the browser, of a folder in which something is missing.
    const [gone] = manifest.items.flatMap(i => i.files)
    await rm(join(folder, gone.path))
    await page.getByRole('link', { name: 'Projects', exact: true }).first().click()
    await page.getByRole('link', { name: 'Check a hand-over' }).click()
    await page.getByLabel('Folder to check').setInputFiles(folder)
    await see(page.getByRole('list', { name: 'What is not as it should be' })).toContainText(`missing ${gone.path}`)
    await expectAccessible(page, 'check of a hand-over')
    const [missing] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Bring 1 file' }).click(),
    ])
    const whole = unzipSync(new Uint8Array(await readFile(await missing.path())))
    expect(whole[gone.path]?.length).toBe(gone.bytes)
    await page.goto(project)
    await rm(folder, { recursive: true, force: true })
  })

  it('tries things together in a mock-up: places, assigns by drag and by keys, turns the sky, renders, compares, saves and pins', async () => {
    await page.getByRole('button', { name: 'New mock-up' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByLabel('Title').fill('Corner')
    await dialog.getByRole('button', { name: 'Begin' }).click()
    const view = page.getByRole('application')
    const shelf = page.getByRole('region', { name: 'Shelf' })
    const search = page.getByRole('searchbox', { name: 'Search the library' })
    const card = page.getByRole('region', { name: 'What is chosen' })
    const things = page.getByRole('complementary', { name: 'Things in the scene' })
    await see(view).toBeVisible()
    // The browser has no graphics card: it traces at the end, when nothing else waits for it.
    await page.keyboard.press('t')
    // Six stools: one by the search and Enter, the others by a key.
    await search.fill('CHR-0001')
    await see(shelf.getByRole('button', { name: /CHR-0001/ })).toBeVisible()
    await search.press('Enter')
    await see(card).toContainText('CHR-0001')
    await search.press('Escape')
    for (let k = 0; k < 5; k++) await page.keyboard.press('d')
    await page.keyboard.press('o')
    const pieces = things.getByRole('button', { name: 'Cube Stool' })
    await see(pieces).toHaveCount(6)
    // A material by the keyboard: the part in the list, the material from the shelf; then on every instance.
    await pieces.first().click()
    const parts = card.getByRole('region', { name: 'Parts' })
    await parts.getByRole('listitem').getByRole('button').first().click()
    await search.fill('TIM-0001')
    await see(shelf.getByRole('button', { name: /TIM-0001/ })).toBeVisible()
    await search.press('Enter')
    await see(parts.getByRole('listitem').first()).toContainText('Oak')
    await choose('A material goes to', 'this part of every instance')
    await search.press('Enter')
    await see(page.getByText(/ on 6 parts\./)).toBeVisible()
    await expectAccessible(page, 'mock-up, a piece chosen')
    // By drag: onto the floor under the pointer.
    await search.press('Escape')
    await page.keyboard.press('Escape')
    await see(card).toHaveCount(0)
    await choose('Kind', 'materials')
    await shelf.getByRole('button', { name: /TIM-0001/ }).dragTo(view, { targetPosition: { x: 300, y: 440 } })
    await see(page.getByText(/ on floor\./)).toBeVisible()
    // A sky, turned by keys.
    await choose('Kind', 'skies')
    await search.fill('')
    const sky = shelf.getByRole('listitem').getByRole('button').first()
    await see(sky).toContainText('SKY-')
    await sky.click()
    await page.getByRole('button', { name: /^Light: / }).click()
    const dial = page.getByRole('slider', { name: 'Turn of the sky' })
    await see(dial).toBeVisible()
    await dial.focus()
    await page.keyboard.press('ArrowLeft')
    await page.keyboard.press('ArrowLeft')
    await see(page.getByLabel('Turn, °', { exact: true })).toHaveValue('10')
    await page.keyboard.press('Escape')
    // A shot, two drafts of it, the difference in numbers; a final that is stopped again.
    await page.getByRole('button', { name: 'Fold the shelf' }).click()
    await page.keyboard.press('p')
    await see(page.getByRole('button', { name: /^Shot 1/ })).toBeVisible()
    const pictures = page.getByRole('complementary', { name: 'Pictures' })
    const ready = pictures.getByRole('button', { name: /^Look at Shot 1.*(draft|final)$/ })
    const draft = page.getByRole('button', { name: 'Draft', exact: true })
    await draft.click()
    await see(ready).toHaveCount(1, { timeout: PATIENCE })
    await page.getByRole('button', { name: /^Light: / }).click()
    await page.getByLabel(/^Brightness/).fill('1')
    await page.keyboard.press('Enter')
    await page.keyboard.press('Escape')
    await draft.click()
    await see(ready).toHaveCount(2, { timeout: PATIENCE })
    for (const n of [0, 1]) await pictures.getByRole('checkbox').nth(n).click()
    await pictures.getByRole('button', { name: 'Compare' }).click()
    await see(page.getByRole('dialog').getByText('FLIP, mean')).toBeVisible()
    await page.keyboard.press('Escape')
    // A final shows itself while it is made, close up too, and is seen early enough to be stopped.
    await page.getByRole('button', { name: 'Final', exact: true }).click()
    await pictures.getByRole('button', { name: /so far$/ }).click({ timeout: PATIENCE })
    await see(page.getByRole('dialog').getByRole('img', { name: /so far$/ })).toBeVisible()
    await page.keyboard.press('Escape')
    await pictures.getByRole('button', { name: /^Stop Shot 1/ }).click()
    await see(pictures.getByRole('button', { name: /^Stop/ })).toHaveCount(0)
    await expectAccessible(page, 'mock-up, its pictures')
    // Saved as a picture and as a scene, and pinned.
    await pictures.getByRole('button', { name: 'Save' }).first().click()
    const [png] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: /^PNG,? for display/ }).click(),
    ])
    expect(png.suggestedFilename()).toMatch(/^corner-shot-1-\d+\.png$/)
    await page.getByRole('button', { name: 'More' }).click()
    const [glb] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: /binary glTF/ }).click()])
    expect(new Uint8Array(await readFile(await glb.path())).subarray(0, 4)).toEqual(new TextEncoder().encode('glTF'))
    await page.getByRole('button', { name: 'More' }).click()
    await page.getByRole('menuitem', { name: /^Pin what is in it/ }).click()
    await see(page.getByText(/pinned in FERRY/)).toBeVisible()
    // Somebody else's page follows, and what is taken back is taken back there too.
    const other = await page.context().newPage()
    await other.goto(page.url())
    await see(other.getByRole('application')).toBeVisible()
    await other.keyboard.press('o')
    await other.getByRole('complementary').getByRole('button', { name: 'Cube Stool' }).first().click()
    const theirs = other.getByLabel('To the east of the middle')
    const before = await theirs.inputValue()
    await page.keyboard.press('o')
    await pieces.first().click()
    const east = page.getByLabel('To the east of the middle')
    await east.fill('1.5')
    await east.press('Enter')
    await see(theirs).toHaveValue('1.5')
    await page.getByRole('button', { name: /^Undo/ }).click()
    await see(theirs).toHaveValue(before)
    await other.close()
    // At rest it is traced in the browser.
    await page.getByRole('button', { name: 'More' }).click()
    await page.getByRole('menuitem', { name: /Refine the view at rest/ }).click()
    await see(page.locator('[data-traced=filtered], [data-traced=done]')).toBeVisible({ timeout: PATIENCE })
  })

  it('measures what is in the mock-up, and lists it as a schedule to save', async () => {
    await page.getByRole('button', { name: 'More' }).click()
    await page.getByRole('menuitem', { name: /^Schedule of what is in it/ }).click()
    await see(page.getByRole('heading', { name: 'Schedule' })).toBeVisible()
    const floor = page.getByRole('row').filter({ hasText: 'TIM-0001' })
    await see(floor).toContainText('m²')
    await see(page.getByRole('row').filter({ hasText: 'CHR-0001' })).toContainText('6')
    await choose('Grouped', 'by maker')
    await expectAccessible(page, 'schedule')
    await page.getByRole('button', { name: 'Save' }).click()
    const [csv] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: /^CSV/ }).click()])
    expect(csv.suggestedFilename()).toBe('corner-schedule.csv')
    expect(await readFile(await csv.path(), 'utf8')).toMatch(/TIM-0001/)
    await page.getByRole('link', { name: 'Corner' }).click()
    await see(page.getByRole('application')).toBeVisible()
  })

  it('adjusts a material there alone, measures, looks past the sky, and saves the passes of a rendering', () =>
    adjustAndMeasure(page))

  it('stands in a model of its own: decides its materials in a table, and replaces all of a kind at once', () =>
    standInOwnModel(page, app.base, folder))

  it('revises an item once: the project is asked with both versions side by side, stays, thinks again and takes it', async () => {
    await page.goto(`${app.base}/items/TIM-0001`)
    await page.getByRole('button', { name: 'Edit', exact: true }).click()
    await page.getByLabel('Real-world width').fill('450')
    await page.getByRole('button', { name: 'Save' }).click()
    await see(page.getByText('material, version 3')).toBeVisible()
    await page.getByRole('button', { name: 'Approve', exact: true }).click()
    const approval = page.getByRole('dialog', { name: 'Approve version 3' })
    await see(approval.getByText('1 project that pins it will be asked')).toBeVisible()
    await approval.getByRole('button', { name: 'Approve' }).click()
    await see(page.getByText('has to decide')).toBeVisible()
    await page.goto(`${app.base}/projects`)
    await see(page.getByRole('region', { name: 'Newer versions on their way' })).toContainText('1 decision open')
    await page
      .getByRole('link', { name: /Ferry hall/ })
      .first()
      .click()
    await page.getByRole('link', { name: 'See what would change' }).click()
    const decision = page.getByRole('region', { name: 'Oak test' })
    await see(decision.getByRole('row', { name: /Real-world width/ })).toContainText('450')
    await see(decision.getByRole('link', { name: 'Corner' })).toBeVisible()
    // Worked out on the server, once its picture is there.
    await see(page.getByRole('list', { name: 'To decide' })).toContainText(/FLIP 0\.\d+/, { timeout: PATIENCE })
    await expectAccessible(page, 'decisions')
    await page.keyboard.press('s')
    const staying = page.getByRole('dialog')
    await staying.getByLabel('Why').fill('The pictures are out already.')
    await staying.getByRole('button', { name: 'Leave as pinned' }).click()
    await see(page.getByText('Nothing of this kind to decide.')).toBeVisible()
    await page.getByLabel('Those that stay too').check()
    await see(decision).toContainText('The pictures are out already.')
    await decision.getByRole('button', { name: 'Decide again' }).click()
    await decision.getByRole('button', { name: 'Take version 3' }).click()
    await see(page.getByText('Everything here is up to date.')).toBeVisible()
    await page.getByRole('link', { name: 'To the project' }).click()
    await see(page.getByRole('listitem').filter({ hasText: 'TIM-0001' })).toContainText('version 3')
  })

  it('audits a scene: what somebody altered is told, put back in one step, clean on the page and on the command line', async () => {
    const mockUps = (await (await page.request.get(`${app.base}/api/mock-ups`)).json()) as { id: number; title: string }[]
    const corner = mockUps.find(m => m.title === 'Corner')!
    const written = await page.request.get(`${app.base}/api/mock-ups/${corner.id}/glb`)
    const document = await readGltfBinary(new Uint8Array(await written.body()))
    const stampOf = (extras: object) => (extras as { muscovite?: { code: string } }).muscovite
    const oak = document
      .getRoot()
      .listMaterials()
      .find(m => stampOf(m.getExtras())?.code === 'TIM-0001')!
    oak.setRoughnessFactor(oak.getRoughnessFactor() * 0.5)
    const scene = { name: 'ferry hall.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(await writeGltfBinary(document)) }
    await page.getByLabel('Scene to audit').setInputFiles(scene)
    await page.waitForURL(/\/audits\/\d+$/)
    await see(page.getByRole('button', { name: /^Put back \d/ })).toBeEnabled({ timeout: PATIENCE })
    const altered = page.getByRole('listitem').filter({ hasText: 'altered here' }).first()
    await see(altered).toContainText('TIM-0001')
    await altered.getByRole('button').click()
    await see(page.getByRole('row', { name: /Specular roughness/ })).toBeVisible()
    await see(page.getByText('On the rig: FLIP')).toBeVisible({ timeout: PATIENCE })
    await expectAccessible(page, 'audit')
    await page.getByRole('button', { name: /^Put back \d/ }).click()
    await see(page.getByText('Audited again: clean.')).toBeVisible({ timeout: PATIENCE })
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: /^The scene/ }).click()])
    expect(download.suggestedFilename()).toBe('ferry hall corrected.glb')
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-scene-'))
    await download.saveAs(join(folder, 'scene.glb'))
    const muscovite = [
      'dist/node/muscovite.js',
      'audit',
      join(folder, 'scene.glb'),
      '--project',
      'FERRY',
      '--json',
      '--server',
      app.base,
    ]
    const said = await promisify(execFile)(process.execPath, muscovite).catch(error => error as { stdout: string })
    const { materials } = JSON.parse(said.stdout) as { materials: { code: string | null; class: string }[] }
    expect(materials.filter(m => m.code === 'TIM-0001').map(m => m.class)).toEqual(['pinned'])
    await rm(folder, { recursive: true, force: true })
    await page.getByRole('link', { name: 'FERRY', exact: true }).click()
    await see(page.getByRole('region', { name: 'Scenes' })).toContainText('ferry hall corrected.glb')
  })

  // Each of these two waits for one page most of the time: beside each other they take as long as the longer.
  it.concurrent('is readable everywhere, in all three surrounds', async () => {
    const places: [string, () => Promise<unknown>][] = [
      ['/wall', () => see(page.locator('[data-chip] img').first()).toBeVisible()],
      ['/items/TIM-0001', () => see(page.getByRole('heading', { name: 'Facts' })).toBeVisible()],
      ['/items/TIM-0001', () => page.getByRole('tab', { name: 'Tune' }).click()],
      ['/compare?of=TIM-0001,CHR-0001', () => see(page.locator('canvas').first()).toBeVisible()],
      ['/family?category=surfaces', () => see(page.getByText(/too alike/).first()).toBeVisible()],
      ['/intake', () => see(page.getByRole('heading', { name: 'Batches' })).toBeVisible()],
      [
        '/intake/3',
        () =>
          page
            .getByRole('button', { expanded: false })
            .filter({ hasText: /none|note|fix|\d/ })
            .first()
            .click(),
      ],
      ['/standard', () => page.getByRole('button', { name: 'Rules of Timber' }).click()],
      ['/standard/profiles', () => see(page.getByRole('heading', { level: 1 })).toBeVisible()],
      ['/standard/licences', () => see(page.getByRole('heading', { level: 1 })).toBeVisible()],
      ['/standard/rigs/model-three-quarter', () => see(page.getByRole('heading', { level: 1 })).toBeVisible()],
      ['/projects', () => see(page.getByText('Ferry hall')).toBeVisible()],
      ['/projects/1', () => see(page.getByRole('heading', { name: 'Hand over' })).toBeVisible()],
      ['/projects/check', () => see(page.getByRole('heading', { level: 1 })).toBeVisible()],
      [
        '/projects/1/schedule',
        async () => {
          const quantity = page.getByLabel(/^Quantity of /).first()
          await quantity.fill('12')
          const kept = page.waitForResponse(answer => answer.url().endsWith('/quantities') && answer.ok())
          await quantity.press('Enter')
          await kept
          await page.reload()
          await see(quantity).toHaveValue('12')
        },
      ],
      ['/audits/1/schedule', () => see(page.getByRole('heading', { name: 'Schedule' })).toBeVisible()],
      ['/audits/1/beside/2', () => see(page.getByText(/same in both|in common/).first()).toBeVisible({ timeout: PATIENCE })],
      ['/projects/1/decisions', () => see(page.getByText('Everything here is up to date.')).toBeVisible()],
      ['/upkeep', () => see(page.getByRole('heading', { name: 'Open findings' })).toBeVisible()],
      ['/people', () => see(page.getByText('Noor Vestergaard')).toBeVisible()],
      ['/people', () => page.keyboard.press('?')],
      ['/people', () => page.getByRole('button', { name: 'Invite somebody' }).click()],
      [
        '/people',
        async () => {
          await page.getByRole('button', { name: 'What can be done for Ines Quist' }).click()
          await page.getByRole('menuitem', { name: 'Where I am signed in' }).click()
          await see(page.getByText('this browser')).toBeVisible()
        },
      ],
      [
        '/upkeep/record',
        async () => {
          await page.getByRole('button', { name: /^Ines Quist/ }).click()
          await page.getByRole('menuitem', { name: 'Another password' }).click()
          await see(page.getByLabel('Your password as it is')).toBeVisible()
        },
      ],
      ['/wall', () => page.getByRole('button', { name: /^Kind/ }).click()],
    ]
    for (const [path, ready] of places) {
      await page.goto(app.base + path)
      // The page, or a sheet that lies over it already.
      const head = page.getByRole('button', { name: /Ines Quist/ }).or(page.getByRole('dialog').getByRole('heading'))
      await see(head.first()).toBeVisible()
      await ready()
      await expectAccessible(page, path)
      for (const surround of SURROUNDS.slice(1)) {
        await setSurround(page, surround)
        await expectContrast(page, `${path} on ${surround}`)
      }
      await setSurround(page, 'n8')
    }
  })

  it.concurrent('works in the first and the last of twelve tabs, which share one line; and where the browser has no shared workers', async () => {
    for (const hasWorkers of [true, false]) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
      if (!hasWorkers) await context.addInitScript(() => Reflect.deleteProperty(globalThis, 'SharedWorker'))
      const first = await context.newPage()
      await first.goto(app.base)
      await first.getByRole('button', { name: /Ines Quist/ }).click()
      await see(first.locator('[data-chip]')).toHaveCount(4)
      const tabs = [first]
      // Without a shared line each has its own: a browser has six to a server.
      const others = hasWorkers ? 11 : 7
      for (const path of Array.from({ length: others }, (_, i) => (i % 2 === 0 ? '/items/CHR-0001' : '/standard'))) {
        const tab = await context.newPage()
        await tab.goto(app.base + path)
        await see(tab.locator('h1').first()).not.toBeEmpty({ timeout: 10_000 })
        tabs.push(tab)
      }
      for (const tab of tabs) await see(tab.getByText('no live line')).toHaveCount(0)
      const last = tabs[others]
      const name = hasWorkers ? 'Cube stool, twelve' : 'Cube stool'
      await last.goto(`${app.base}/items/CHR-0001`)
      await last.getByRole('button', { name: 'Edit' }).click()
      await last.getByRole('textbox', { name: 'Name' }).fill(name)
      await last.getByRole('button', { name: 'Save' }).click()
      // The first, on the wall, and one on the sheet hear of it.
      await see(first.locator('[data-chip="CHR-0001"]').getByText(name, { exact: true })).toBeVisible()
      await see(tabs[1].getByRole('heading', { name, exact: true })).toBeVisible()
      // Who goes back and forth in one of them is answered at once.
      for (const path of ['/wall', '/items/CHR-0001', '/intake', '/intake/1', '/standard']) await first.goto(app.base + path)
      await see(first.getByRole('heading', { name: 'The house tree' })).toBeVisible({ timeout: 5000 })
      // The one that may hold the line goes; the others go on hearing.
      await first.close()
      await last.getByRole('button', { name: 'Edit' }).click()
      await last.getByRole('textbox', { name: 'Name' }).fill('Cube stool')
      await last.getByRole('button', { name: 'Save' }).click()
      await see(tabs[3].getByRole('heading', { name: 'Cube stool', exact: true })).toBeVisible()
      // Signed out in one, signed out in all.
      await last.keyboard.press('Escape')
      await last.getByRole('button', { name: /Ines Quist/ }).click()
      await last.getByRole('menuitem', { name: 'Sign out' }).click()
      await see(tabs[1].getByRole('button', { name: 'Sign in', exact: true })).toBeVisible()
      await context.close()
    }
  })

  it('finds, narrows, compares, dots, saves the view and sends the tray without a mouse', async () => {
    await page.goto(`${app.base}/wall`)
    await see(page.locator('[data-chip]').first()).toBeVisible()
    const press = async (...keys: string[]) => {
      for (const key of keys) await page.keyboard.press(key)
    }
    const chip = page.locator('[data-chip-button]')
    await press('/')
    await page.keyboard.type('sky')
    await press('Enter')
    await see(chip).toHaveCount(2)
    await see(chip.first()).toBeFocused()
    // Both get a dot and go into the tray.
    await press('3', 'Space', 'ArrowRight')
    await see(chip.nth(1)).toBeFocused()
    await press('3', 'Space')
    const tray = page.getByRole('region', { name: 'Tray' })
    await see(tray).toContainText('2')
    await see(page.getByRole('img', { name: 'Dots: dot 3' })).toHaveCount(2)
    await press('c')
    await see(page).toHaveURL(/compare\?of=/)
    await see(page.getByRole('group', { name: 'Way of comparing' })).toBeVisible()
    await tabTo(page.getByRole('link', { name: 'Wall', exact: true }))
    await press('Enter')
    await see(chip.first()).toBeVisible()
    await press('n')
    await tabTo(page.getByRole('checkbox', { name: 'Only dot 3' }))
    await press('Space')
    await see(chip).toHaveCount(2)
    // The panel closes, and the keyboard is at what was found.
    await press('n')
    await see(chip.first()).toBeFocused()
    await press('m')
    await see(page.getByRole('menu')).toBeFocused()
    await page.keyboard.type('save')
    await press('Enter')
    await see(page.getByRole('dialog').getByRole('textbox').first()).toBeFocused()
    await page.keyboard.type('Skies to try')
    await press('Enter')
    await see(page.getByText('Skies to try is among your views.')).toBeVisible()
    await tabTo(tray.getByRole('button').first())
    await press('Enter')
    await see(page.getByRole('menu')).toBeFocused()
    await page.keyboard.type('send')
    await press('Enter')
    const dialog = page.getByRole('dialog')
    await tabTo(dialog.getByRole('button', { name: /^To: / }))
    await press('ArrowDown')
    // A list is there before it takes the keyboard: keys wait for that, as a person's do.
    await see(page.getByRole('listbox')).toBeFocused()
    const person = page.getByRole('option').first()
    await press('Home')
    await see(person).toHaveAttribute('data-focus', '')
    await press('Enter')
    await see(person).toHaveAttribute('aria-selected', 'true')
    await press('Escape')
    await see(page.getByRole('option')).toHaveCount(0)
    await tabTo(dialog.getByRole('button', { name: 'Send', exact: true }))
    await press('Enter')
    await see(page.getByText(/has a copy of it among their trays/)).toBeVisible()
    await tabTo(tray.getByRole('button', { name: 'Empty' }))
    await press('Enter')
    await see(tray).toHaveCount(0)
  })

  it('an artist sees the items but decides nothing, and knows of no other library', async () => {
    await page.goto(`${app.base}/wall`)
    // What a page still asks for when its session ends is refused, and the browser says so.
    await see(page.locator('[data-chip] img').first()).toBeVisible()
    await page.getByRole('button', { name: /Ines Quist/ }).click()
    await page.getByRole('menuitem', { name: 'Sign out' }).click()
    await page.getByRole('button', { name: /Tomas Brandl/ }).click()
    await see(page.getByRole('link', { name: 'Wall', exact: true })).toBeVisible()
    await page.goto(`${app.base}/items/CHR-0001`)
    await see(page.getByRole('heading', { name: 'Cube stool' })).toBeVisible()
    await see(page.getByRole('button', { name: 'Approve' })).toHaveCount(0)
    await see(page.getByRole('button', { name: 'Edit' })).toHaveCount(0)
    await page.goto(`${app.base}/wall`)
    await see(page.locator('[data-chip]')).toHaveCount(4)
    await see(page.getByLabel('Library')).toHaveCount(0)
    for (const [place, text] of [
      ['standard', 'The house tree'],
      ['upkeep', 'The library now'],
      ['people', 'Noor Vestergaard'],
    ]) {
      await page.goto(`${app.base}/${place}`)
      await see(page.getByText(text).first()).toBeVisible()
      await expectAccessible(page, place)
    }
    await see(page.getByText('Kettle client')).toHaveCount(0)
  })

  it('nothing in the browser complained', () => {
    expect(trouble).toEqual([])
  })

  it('Ctrl-C leaves no process; the next start is quick and has everything', async () => {
    // The tuned oak's new version may still be in line.
    await page.goto(`${app.base}/wall`)
    await see(page.locator('[data-chip] img')).toHaveCount(4, { timeout: PATIENCE })
    expect(leftovers().length).toBeGreaterThan(2)
    expect(await app.stop()).toBe(0)
    await expect.poll(leftovers, { timeout: 10_000 }).toEqual([])
    app = await startApp(join(folder, 'data'))
    expect(app.secondsToReady).toBeLessThan(30)
    await page.goto(`${app.base}/wall`)
    // The session outlasts the restart: it is still Tomas who looks.
    await see(page.getByRole('button', { name: /Tomas Brandl/ })).toBeVisible()
    await see(page.locator('[data-chip] img')).toHaveCount(4)
  })
})
