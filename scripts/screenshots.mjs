// Pictures of the main views at 1280 x 800, and one of each rig, from the demo data of a running application:
// npm run screenshots [-- ADDRESS] [NAME...]
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ensureDebianPackages, ensurePackages, findChromium, SetupError } from './setup.mjs'

const base = process.argv.slice(2).find(word => word.startsWith('http')) ?? `http://127.0.0.1:${process.env.PORT ?? 5170}`
const folder = join(import.meta.dirname, '../docs/screenshots')

/** Chooses in a list: by its label, and what the entry says. */
async function choose(page, label, entry) {
  await page.getByRole('button', { name: new RegExp(`^${label}: `) }).click()
  await page.getByRole('option', { name: entry }).click()
}

/** A scene in which somebody darkened a material, known by its stamp. */
function makeDarker(glb, code) {
  const length = glb.readUInt32LE(12)
  const json = JSON.parse(glb.subarray(20, 20 + length).toString())
  const material = json.materials.find(m => m.extras?.muscovite?.code === code)
  material.pbrMetallicRoughness.baseColorFactor = [0.78, 0.7, 0.62, 1]
  material.pbrMetallicRoughness.roughnessFactor = 0.6
  const text = Buffer.from(JSON.stringify(json))
  const padded = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, 0x20)])
  const head = Buffer.from(glb.subarray(0, 20))
  head.writeUInt32LE(20 + padded.length + glb.length - 20 - length, 8)
  head.writeUInt32LE(padded.length, 12)
  return Buffer.concat([head, padded, glb.subarray(20 + length)])
}

/** Name, address, and what to do before the picture. */
const VIEWS = [
  ['wall', '/wall'],
  [
    'narrow',
    '/wall?kind=material&color=b98d5c~14',
    async page => {
      await page.locator('[data-chip]').first().waitFor()
      await page.keyboard.press('n')
      await page.getByRole('region', { name: 'Narrow the view' }).waitFor()
    },
  ],
  ['sheet-material', '/items/TIM-0004'],
  [
    'sheet-live',
    '/items/CHR-0002',
    async page => {
      await page.getByRole('button', { name: 'Turn it' }).click()
      for (let k = 0; k < 3; k++) await page.keyboard.press('ArrowLeft')
      await page.getByText(/traced here, error/).waitFor({ timeout: 60_000 })
    },
  ],
  ['sheet-environment', '/items/SKY-0002'],
  ['intake', '/intake'],
  ['batch', '/intake', async page => page.getByRole('link', { name: /spring delivery/ }).click()],
  [
    'fix',
    '/intake',
    async page => {
      await page.getByRole('link', { name: /spring delivery/ }).click()
      await choose(page, 'Rows shown', /seam shows/)
      await page.locator('li[data-index] button[aria-expanded]:not([aria-haspopup])').first().click()
      await page.waitForTimeout(1500)
    },
  ],
  [
    'mock-up',
    '/projects',
    async page => {
      await page.getByRole('link', { name: /Terrace on the quay/ }).click()
      await page.locator('[data-opening="0"]').waitFor({ timeout: 60_000 })
      await page.getByRole('button', { name: /^Benches/ }).waitFor()
      await page.getByRole('button', { name: 'Things' }).click()
      await page.getByRole('button', { name: 'Waiting bench three' }).first().click()
      await page.getByRole('button', { name: 'Things' }).click()
      await page.locator('[data-traced=filtered], [data-traced=done]').waitFor({ timeout: 240_000 })
      await page.waitForTimeout(60_000)
    },
  ],
  [
    'project',
    '/projects',
    async page =>
      page
        .getByRole('link', { name: /Lakeside ferry hall/ })
        .first()
        .click(),
  ],
  [
    'decisions',
    '/projects',
    async page => {
      await page
        .getByRole('link', { name: /Lakeside ferry hall/ })
        .first()
        .click()
      await page.getByRole('link', { name: 'See what would change' }).click()
      await page.getByText(/FLIP, mean/).waitFor({ timeout: 120_000 })
    },
  ],
  // The reading room is the second mock-up of the demo.
  ['schedule', '/mock-ups/2/schedule', page => page.getByRole('row').nth(3).waitFor({ timeout: 60_000 })],
  ['compare', '/compare?of=TIM-0004,TIM-0005&view=difference'],
  ['family', '/family?category=surfaces'],
  [
    'tune',
    '/items/TEX-0003',
    async page => {
      await page.getByRole('tab', { name: 'Tune' }).click()
      await page.getByText('Fuzz', { exact: true }).click()
      await page.getByLabel('Fuzz weight, figure').fill('0.8')
      await page.waitForTimeout(25_000)
    },
  ],
  ['standard', '/standard'],
  [
    'rig',
    '/standard/rigs/model-three-quarter',
    async page => {
      await page.getByLabel('Round', { exact: true }).fill('-35')
      await page.getByRole('button', { name: 'Try on three items' }).click()
      await page.locator('[data-trial] img').nth(5).waitFor({ timeout: 180_000 })
      await page.evaluate(() => document.querySelector('[data-trial]')?.closest('[tabindex]')?.scrollTo(0, 0))
    },
  ],
  ['upkeep', '/upkeep'],
  [
    'audit',
    '/projects/2',
    async page => {
      const glb = await (await page.request.get(`${base}/api/mock-ups/2/glb`)).body()
      await page.getByLabel('Scene to audit').setInputFiles({
        name: 'reading room.glb',
        mimeType: 'model/gltf-binary',
        buffer: makeDarker(glb, 'TIM-0004'),
      })
      await page.getByText(/On the rig: FLIP/).waitFor({ timeout: 120_000 })
    },
  ],
]

/** A demo item on each rig. */
const ON_RIG = {
  'material-stage': 'TIM-0004',
  'cloth-drape': 'TEX-0003',
  'glass-vessel': 'GLA-0001',
  'liquid-vessel': 'WAT-0001',
  'material-close-up': 'TEX-0003',
  'material-wall': 'BRK-0001',
  'model-three-quarter': 'CHR-0002',
  'plant-three-quarter': 'TRE-0001',
  'leaf-close-up': 'IND-0001',
  'light-wall-wash': 'LIT-0001',
  'environment-strip': 'SKY-0002',
  'light-bay': 'WSH-0001',
  'map-sheet': 'STM-0003',
}

/** Asks for the drafts, waits until they are rendered, and keeps them. */
async function takeRigs(request) {
  const rigs = join(import.meta.dirname, '../docs/rigs')
  mkdirSync(rigs, { recursive: true })
  for (const [rig, code] of Object.entries(ON_RIG)) {
    let preview = null
    for (let tries = 0; !preview && tries < 120; tries++) {
      const [compared] = await (await request.get(`${base}/api/compare?of=${code}.draft.${rig}`)).json()
      preview = compared.preview
      if (!preview) await new Promise(resolve => setTimeout(resolve, 1000))
    }
    if (!preview) throw new SetupError(`${code} was not rendered on ${rig} within two minutes.`)
    writeFileSync(join(rigs, `${rig}.webp`), await (await request.get(`${base}${preview.url}`)).body())
    console.log(rig)
  }
}

/** Names of the views to take again; none for all. */
const wanted = process.argv.slice(2).filter(word => !word.startsWith('http'))

try {
  await ensurePackages()
  ensureDebianPackages(['chromium'], () => findChromium() !== null, 'Chromium')
  const { chromium } = await import('@playwright/test')
  const up = await fetch(`${base}/api/health`).catch(() => null)
  if (!up?.ok) throw new SetupError(`Nothing answers at ${base}. Start the application with npm start, then take the pictures.`)
  mkdirSync(folder, { recursive: true })
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: ['--no-sandbox', '--disable-quic', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const take = async name => {
    await page.waitForLoadState('networkidle', { timeout: 5000 }).catch(() => {})
    await page.waitForTimeout(name === 'sheet-live' ? 6000 : 1200)
    await page.screenshot({ path: join(folder, `${name}.png`) })
    console.log(name)
  }
  await page.goto(base)
  await page.getByRole('button', { name: /Ines Quist/ }).waitFor()
  await page.getByRole('button', { name: /Ines Quist/ }).click()
  await page.getByRole('link', { name: 'Wall', exact: true }).waitFor()
  for (const [name, address, prepare] of VIEWS) {
    if (wanted.length > 0 && !wanted.includes(name)) continue
    await page.goto(base + address)
    await prepare?.(page)
    await take(name)
    // What was only tried for its picture is dropped again.
    if (name === 'rig') await page.getByRole('button', { name: 'Discard' }).click()
  }
  if (wanted.length === 0) await takeRigs(page.context().request)
  await browser.close()
} catch (error) {
  console.error(error instanceof SetupError ? error.message : error)
  process.exitCode = 1
}
