import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import sharp from 'sharp'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { takeHouseForm } from '../fixes/take-house-form'
import { inspectItem } from '../items/inspect-item'
import { decodeAsIs } from '../reading/decode-image'
import { sourceFileAt } from '../reading/source-file'
import { recognizeDelivery } from './recognize-delivery'

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-definitions-'))
})
afterEach(() => rm(folder, { recursive: true, force: true }))

const grey = (value: number, size = 16): Promise<Buffer> =>
  sharp({ create: { width: size, height: size, channels: 3, background: { r: value, g: value, b: value } } })
    .png()
    .toBuffer()

async function deliver(files: Record<string, string | Uint8Array>) {
  const made = await Promise.all(
    Object.entries(files).map(async ([path, bytes]) => {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), bytes)
      return sourceFileAt(join(folder, path), path)
    }),
  )
  const { items, leftOver, failures } = await recognizeDelivery(made)
  const rolesOf = (index: number) => Object.fromEntries(items[index].files.map(f => [f.file.path, f.role]))
  return { items, leftOver, failures, rolesOf }
}

const image = (name: string, type: string, file: string, space = 'lin_rec709') =>
  `<image name="${name}" type="${type}"><input name="file" type="filename" value="${file}" colorspace="${space}"/></image>`
const material = (name: string, inputs: string) =>
  `<standard_surface name="${name}_s" type="surfaceshader">${inputs}</standard_surface>
   <surfacematerial name="${name}" type="material"><input name="surfaceshader" type="surfaceshader" nodename="${name}_s"/></surfacematerial>`
const documentOf = (body: string) => `<?xml version="1.0"?><materialx version="1.39">${body}</materialx>`

describe('definitions of a delivery', () => {
  it('say what files are, whatever they are called, wherever they lie', async () => {
    const { items, rolesOf, leftOver } = await deliver({
      'quay/defs/quay.mtlx': documentOf(
        image('a', 'color3', '../tex/0001.png', 'srgb_texture') +
          image('b', 'float', '../tex/0002.png') +
          material(
            'Quay_stone',
            '<input name="base_color" type="color3" nodename="a"/><input name="specular_roughness" type="float" nodename="b"/>',
          ),
      ),
      'quay/tex/0001.png': await grey(120),
      'quay/tex/0002.png': await grey(200),
    })
    expect(items).toHaveLength(1)
    expect(rolesOf(0)).toEqual({
      'quay/defs/quay.mtlx': 'definition',
      'quay/tex/0001.png': 'baseColor',
      'quay/tex/0002.png': 'roughness',
    })
    expect(leftOver).toEqual([])
    expect((await takeHouseForm(items[0])).files).toEqual([])
  })

  it('with a graph have its maps worked out; the pictures it is made of stay as they were delivered', async () => {
    const { items, rolesOf } = await deliver({
      'Slate_Tinted_basecolor.png': await grey(128, 32),
      'Slate_Tinted.mtlx': documentOf(
        `${image('pic', 'color3', 'Slate_Tinted_basecolor.png', 'srgb_texture')}
         <multiply name="tint" type="color3"><input name="in1" type="color3" nodename="pic"/><input name="in2" type="color3" value="0.5, 1, 1"/></multiply>
         <viewdirection name="view" type="vector3"/>
         ${material(
           'Slate',
           '<input name="base_color" type="color3" nodename="tint"/><input name="metalness" type="float" nodename="view"/>',
         )}`,
      ),
    })
    expect(rolesOf(0)).toEqual({ 'Slate_Tinted_basecolor.png': 'original', 'Slate_Tinted.mtlx': 'definition' })
    const { files } = await takeHouseForm(items[0])
    expect(files).toMatchObject([{ path: 'Slate_Tinted_baseColor.png', role: 'baseColor', from: null }])
    const baked = await decodeAsIs(files[0].bytes)
    expect([baked.width, baked.height, baked.channels]).toEqual([32, 32, 3])
    // Half of the linear value of 128.
    expect([baked.data[0], baked.data[1]]).toEqual([92, 128])
    const { findings } = await inspectItem(items[0], null)
    expect(findings.find(f => f.code === 'lostInReading')?.evidence).toEqual({ form: 'mtlx', what: 'viewdirection in metalness' })
  })

  it('without any picture are materials all the same', async () => {
    const { items } = await deliver({
      'checks.mtlx': documentOf(
        `<checkerboard name="c" type="color3"/>${material('Checks', '<input name="base_color" type="color3" nodename="c"/>')}`,
      ),
    })
    const { files } = await takeHouseForm(items[0])
    expect(files.map(f => f.role)).toEqual(['baseColor'])
    expect((await decodeAsIs(files[0].bytes)).width).toBe(1024)
  })

  it('of several materials are as many items, each opened by its own name', async () => {
    const { items, rolesOf, leftOver } = await deliver({
      'metals.mtlx': documentOf(
        image('a', 'float', 'shared_roughness.png') +
          material(
            'Brass',
            '<input name="specular_roughness" type="float" nodename="a"/><input name="specular" type="float" value="0.9"/>',
          ) +
          material(
            'Zinc',
            '<input name="specular_roughness" type="float" nodename="a"/><input name="specular" type="float" value="0.4"/>',
          ),
      ),
      'shared_roughness.png': await grey(90),
    })
    expect(items.map(i => [i.name, i.constants.specularWeight, i.given.materialName])).toEqual([
      ['Brass', 0.9, 'Brass'],
      ['Zinc', 0.4, 'Zinc'],
    ])
    expect(rolesOf(0)).toEqual({ 'metals.mtlx': 'definition', 'shared_roughness.png': 'roughness' })
    expect(rolesOf(1)).toEqual(rolesOf(0))
    expect(leftOver).toEqual([])
  })
})
