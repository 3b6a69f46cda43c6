import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { writePsd } from 'ag-psd'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sourceOfBytes } from '#core/codecs/byte-source'
import { listExrLayers, parseExr } from '#core/codecs/exr'
import { writeLayeredExr } from '../../../../tests/formats/layered-exr'
import { attack } from '../../../../tests/hostile'
import { takeHouseForm } from '../../fixes/take-house-form'
import { recognizeDelivery } from '../../recognition/recognize-delivery'
import { decodeAsIs } from '../decode-image'
import { sourceFileAt } from '../source-file'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-layers-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

async function deliver(path: string, bytes: Uint8Array) {
  await writeFile(join(folder, path), bytes)
  return recognizeDelivery([await sourceFileAt(join(folder, path), path)])
}

const W = 6
const H = 4
const ramp = (x: number) => x / (W - 1)
const flat = (value: number) => () => value
const SET = {
  'baseColor.R': ramp,
  'baseColor.G': flat(0.25),
  'baseColor.B': flat(0),
  'roughness.Y': (_: number, y: number) => y / (H - 1),
  'normal.X': flat(0.5),
  'normal.Y': flat(0.5),
  'normal.Z': flat(1),
}

/** The same channels as parts of their own. */
const inParts = ['baseColor', 'roughness', 'normal'].map(name => ({
  name,
  channels: Object.fromEntries(
    Object.entries(SET)
      .filter(([channel]) => channel.startsWith(`${name}.`))
      .map(([channel, of]) => [channel.split('.')[1], of]),
  ),
}))

describe('layers', () => {
  for (const [form, parts] of [
    ['one part', [{ channels: SET }]],
    ['parts', inParts],
  ] as const)
    it(`of an OpenEXR in ${form} are the maps of one material`, async () => {
      const { items, leftOver, failures } = await deliver(`Quay ${form}.exr`, writeLayeredExr(W, H, parts))
      expect([leftOver, failures]).toEqual([[], []])
      expect(items).toMatchObject([{ kind: 'material', files: [{ role: 'original' }] }])
      const { files } = await takeHouseForm(items[0])
      expect(files.map(f => f.role).sort()).toEqual(['baseColor', 'normal', 'roughness'])
      const color = await decodeAsIs(files.find(f => f.role === 'baseColor')!.bytes)
      // Linear floats become codes as displays have them.
      expect(color.data[1] / 65535).toBeCloseTo(0.537, 2)
      expect(color.data[(W - 1) * color.channels] / 65535).toBeCloseTo(1, 3)
      const rough = await decodeAsIs(files.find(f => f.role === 'roughness')!.bytes)
      expect(rough.data[1 * W * rough.channels] / 65535).toBeCloseTo(1 / (H - 1), 3)
    })

  it('of a PSD are as well, each where it lies', async () => {
    const layer = (name: string, left: number, width: number, value: number) => ({
      name,
      left,
      top: 0,
      imageData: {
        width,
        height: H,
        data: new Uint8ClampedArray(width * H * 4).fill(value).map((v, i) => (i % 4 === 3 ? 255 : v)),
      },
    })
    const whole = layer('', 0, W, 90).imageData
    const psd = writePsd({
      width: W,
      height: H,
      imageData: whole,
      children: [layer('Base Color', 0, W, 200), layer('Roughness', 2, W - 2, 77), layer('notes', 0, W, 3)],
    } as never)
    const { items } = await deliver('Slate.psd', new Uint8Array(psd))
    const { files } = await takeHouseForm(items[0])
    expect(files.map(f => f.role)).toEqual(['baseColor', 'roughness'])
    const rough = await decodeAsIs(files[1].bytes)
    expect([rough.data[0], rough.data[2 * rough.channels]]).toEqual([0, 77])
  })

  it('that are the passes of a rendering, or one picture, make no material', async () => {
    const plain = { R: ramp, G: ramp, B: ramp }
    const passes = await deliver('frame.exr', writeLayeredExr(W, H, [{ channels: { ...SET, ...plain } }]))
    expect(passes.items.map(i => i.kind)).toEqual(['environment'])
    // The plain picture is the one that is looked at.
    expect(parseExr(writeLayeredExr(W, H, [{ channels: { ...SET, ...plain } }])).data[3]).toBeCloseTo(0.2, 5)
    const depth = writeLayeredExr(W, H, [{ channels: { Z: flat(7) } }])
    expect([...parseExr(depth).data.slice(0, 3)]).toEqual([7, 7, 7])
    expect(() => parseExr(writeLayeredExr(W, H, [{ channels: SET }]))).toThrow(/No one picture/)
  })

  it('are listed with their sizes', () => {
    expect(listExrLayers(sourceOfBytes(writeLayeredExr(W, H, inParts)))).toEqual([
      { name: 'baseColor', width: W, height: H, channelCount: 3 },
      { name: 'roughness', width: W, height: H, channelCount: 1 },
      { name: 'normal', width: W, height: H, channelCount: 3 },
    ])
  })

  it(
    'of damaged files are refused or read, and never break off',
    () =>
      attack('exr', writeLayeredExr(W, H, inParts), 400, bytes => {
        for (const { name } of listExrLayers(sourceOfBytes(bytes))) expect(name.length).toBeLessThan(600)
      }),
    60_000,
  )
})
