import { spawnSync } from 'node:child_process'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeDelivery } from '../../tests/fixtures'
import { writeIes } from '../../tests/formats/photometry'

const ENTRY = new URL('../../dist/node/muscovite.js', import.meta.url).pathname

let root: string
beforeAll(async () => {
  root = await mkdtemp(join(tmpdir(), 'muscovite-cli-'))
  await writeDelivery(join(root, 'delivery'))
})
afterAll(() => rm(root, { recursive: true, force: true }))

const run = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [ENTRY, ...args], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  })
  return { status, stdout, stderr }
}

describe('muscovite inspect', () => {
  it('prints what is there as JSON, names every failure, and ends with 1 when there is one', () => {
    const { status, stdout, stderr } = run('inspect', join(root, 'delivery'), '--json')
    const { items, failures } = JSON.parse(stdout)
    expect(items.map((i: { kind: string }) => i.kind).sort()).toEqual(['environment', 'environment', 'material', 'model'])
    const sky = items.find((i: { path: string }) => i.path.includes('Clear_Test_Sky'))
    expect(sky.facts).toMatchObject({ setting: 'exterior', sky: 'clear', sunPresent: true })
    expect(sky.facts.sunAzimuthDeg).toBeCloseTo(40, 0)
    expect(sky.facts.sunElevationDeg).toBeCloseTo(35, 0)
    const oak = items.find((i: { kind: string }) => i.kind === 'material')
    expect(oak.findings).toMatchObject([{ code: 'realWorldSizeMissing', severity: 'mustFix' }])
    expect(oak.findings[0].message).toContain('width')
    const stool = items.find((i: { kind: string }) => i.kind === 'model')
    expect(stool.facts.boundsM.map((v: number) => v.toFixed(2))).toEqual(['0.50', '0.72', '0.50'])
    expect(failures.map((f: { code: string }) => f.code).sort()).toEqual(['emptyFile', 'truncated', 'typeMismatch'])
    expect(status).toBe(1)
    expect(stderr).toBe('')
  })

  it('names each file once, says where a luminaire belongs by its light, and works out what a definition describes', async () => {
    const steps = Array.from({ length: 37 }, (_, i) => i * 5)
    const spot = writeIes({ planesDeg: [0], gammaDeg: steps, intensity: (_, g) => 4000 * Math.exp(-g / 4) }, { lumens: -1 })
    const checks = `<?xml version="1.0"?><materialx version="1.39"><checkerboard name="c" type="color3"/>
      <standard_surface name="s" type="surfaceshader"><input name="base_color" type="color3" nodename="c"/></standard_surface></materialx>`
    const folder = join(root, 'described')
    await mkdir(folder)
    await writeFile(join(folder, 'type 12.ies'), spot)
    await writeFile(join(folder, 'cut.ies'), spot.slice(0, 150))
    await writeFile(join(folder, 'checks.mtlx'), checks)
    const { items, failures, leftOver } = JSON.parse(run('inspect', folder, '--json').stdout)
    expect(items.map((i: { kind: string; category: string }) => [i.kind, i.category]).sort()).toEqual([
      ['light', 'luminaires.spots'],
      ['material', 'surfaces'],
    ])
    expect(items.find((i: { kind: string }) => i.kind === 'material').facts.maps).toBe('baseColor')
    expect(failures.map((f: { path: string }) => f.path)).toEqual(['cut.ies'])
    const paths = [...items.flatMap((i: { files: { path: string }[] }) => i.files), ...failures, ...leftOver].map(
      (f: { path: string }) => f.path,
    )
    expect(paths.sort()).toEqual(['checks.mtlx', 'cut.ies', 'type 12.ies'])
  })

  it('ends with 0 where all is well, and reads like a report without --json', () => {
    const { status, stdout } = run('inspect', join(root, 'delivery/Skies'))
    expect(status).toBe(0)
    expect(stdout).toContain('Sun elevation')
    expect(stdout).toContain('2 items, 0 failures')
  })

  it('says what is wrong with the call, and never shows a stack trace', async () => {
    expect(run('inspect').status).toBe(2)
    expect(run('fly').status).toBe(2)
    expect(run('inspect', '--nonsense').status).toBe(2)
    const missing = run('inspect', join(root, 'nowhere'), '--json')
    expect(missing.status).toBe(1)
    expect(JSON.parse(missing.stdout).failures[0].code).toBe('notFound')
    const junk = join(root, 'junk.glb')
    await writeFile(junk, Buffer.from('glTF\x02\x00\x00\x00\xff\xff\xff\x7fgarbage and more of it'))
    const broken = run('inspect', junk)
    expect(broken.status).toBe(1)
    expect(broken.stdout + broken.stderr).not.toMatch(/\bat .*:\d+:\d+/)
  })
})

describe('muscovite preview', () => {
  it('renders without server or database, the same twice, and writes its figures', async () => {
    const [a, b, stats] = ['a.png', 'b.png', 'stats.json'].map(n => join(root, n))
    const call = (out: string) =>
      run(
        'preview',
        join(root, 'delivery/Seating/Cube_Stool.glb'),
        '--out',
        out,
        '--width',
        '64',
        '--seed',
        '7',
        '--stats',
        stats,
      )
    expect(call(a).status).toBe(0)
    expect(call(b).status).toBe(0)
    expect(await readFile(a)).toEqual(await readFile(b))
    expect(await sharp(a).metadata()).toMatchObject({ width: 64, height: 48 })
    expect(JSON.parse(await readFile(stats, 'utf8'))).toMatchObject({
      kind: 'model',
      rig: 'model-three-quarter',
      quality: 'draft',
      seed: 7,
    })
  })

  it('takes another rig where it fits, and says so where it does not', () => {
    const sky = join(root, 'delivery/Skies/Clear_Test_Sky.exr')
    const out = join(root, 'c.png')
    const wrong = run('preview', sky, '--out', out, '--rig', 'material-stage')
    expect(wrong.status).toBe(2)
    expect(wrong.stderr).toContain('does not take')
    expect(run('preview', sky, '--out', out, '--rig', 'no-such-rig').status).toBe(2)
    expect(run('preview', join(root, 'delivery/Timber'), '--out', out, '--rig', 'material-wall', '--width', '48').status).toBe(0)
    expect(run('preview', join(root, 'nowhere'), '--out', out).status).toBe(1)
  })
})
