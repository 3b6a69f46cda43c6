import { describe, expect, it } from 'vitest'
import { attack } from '../../../../tests/hostile'
import { encodeSrgb } from '../../color/srgb'
import type { GraphImage } from './graph-images'
import { bakeMaps, listMaterials, parseMaterialX } from './read-materialx'

const documentOf = (body: string, attributes = 'colorspace="lin_rec709"') =>
  `<?xml version="1.0"?>\n<materialx version="1.39" ${attributes}>${body}</materialx>`
const surfaceOf = (kind: string, inputs: string) =>
  `<${kind} name="srf" type="surfaceshader">${inputs}</${kind}>
   <surfacematerial name="Oak" type="material"><input name="surfaceshader" type="surfaceshader" nodename="srf"/></surfacematerial>`
const pictureOf = (name: string, type: string, file: string, more = '') =>
  `<image name="${name}" type="${type}"><input name="file" type="filename" value="${file}" ${more}/></image>`

/** Red falls from left to right, green from the top down, blue is even. */
const ramp: GraphImage = {
  width: 8,
  height: 4,
  channels: 3,
  at(index) {
    const [x, y, c] = [Math.floor(index / 3) % 8, Math.floor(index / 24), index % 3]
    return c === 0 ? (7 - x) / 7 : c === 1 ? (3 - y) / 3 : 0.25
  },
}
const findRamp = (address: string) => (address === 'ramp.png' ? ramp : null)
/** The first channel of a node graph's output, over 8 x 4 texels. */
function bakeRoughness(graph: string, output = 'last'): number[] {
  const text = documentOf(
    `<nodegraph name="NG">${graph}<output name="out" type="float" nodename="${output}"/></nodegraph>
     ${surfaceOf('standard_surface', '<input name="specular_roughness" type="float" nodegraph="NG" output="out"/>')}`,
  )
  const [map] = bakeMaps(text, null, findRamp, 8, 4)
  expect(map).toMatchObject({ role: 'roughness', channels: 1, width: 8, height: 4 })
  return [...map.data]
}
const at = (values: number[], x: number, y: number) => values[y * 8 + x]

describe('surfaces of MaterialX', () => {
  it('of each kind are told in OpenPBR, with the defaults of their own kind', () => {
    const standard = parseMaterialX(
      documentOf(
        surfaceOf(
          'standard_surface',
          `<input name="base" type="float" value="0.9"/><input name="base_color" type="color3" value="0.2, 0.3, 0.4"/>
           <input name="opacity" type="color3" value="0.2, 0.4, 0.6"/><input name="emission" type="float" value="2"/>
           <input name="thin_film_thickness" type="float" value="450"/><input name="coat" type="float" value="1"/>`,
        ),
      ),
    )
    expect(standard.name).toBe('Oak')
    expect(standard.parameters).toMatchObject({
      baseWeight: expect.closeTo(0.9, 5),
      baseColor: [0.2, 0.3, 0.4].map(v => expect.closeTo(v, 5)),
      geometryOpacity: expect.closeTo(0.4, 5),
      emissionLuminance: 1000,
      thinFilmThickness: expect.closeTo(0.45, 5),
      thinFilmWeight: 1,
      specularRoughness: 0.2,
      coatDarkening: 0,
    })
    // Free paths by colour, in metres, and an Abbe number.
    const deep = parseMaterialX(
      documentOf(
        surfaceOf(
          'standard_surface',
          `<input name="subsurface" type="float" value="0.7"/><input name="subsurface_radius" type="color3" value="0.4, 0.2, 0.1"/>
           <input name="subsurface_scale" type="float" value="0.05"/><input name="subsurface_anisotropy" type="float" value="0.3"/>
           <input name="transmission_dispersion" type="float" value="32"/>`,
        ),
      ),
    )
    expect(deep.parameters).toMatchObject({
      subsurfaceWeight: expect.closeTo(0.7, 5),
      subsurfaceRadius: expect.closeTo(0.02, 5),
      subsurfaceRadiusScale: [1, 0.5, 0.25].map(v => expect.closeTo(v, 5)),
      subsurfaceScatterAnisotropy: expect.closeTo(0.3, 5),
      transmissionDispersionScale: 1,
      transmissionDispersionAbbeNumber: 32,
    })
    expect(Object.keys(standard.parameters).filter(name => /Dispersion|Radius/.test(name))).toEqual([])
    const gltf = parseMaterialX(
      documentOf(surfaceOf('gltf_pbr', '<input name="sheen_color" type="color3" value="0.5, 0.25, 0"/>')),
    )
    expect(gltf.parameters).toMatchObject({ baseMetalness: 1, specularRoughness: 1, fuzzWeight: 0.5, fuzzColor: [1, 0.5, 0] })
    const preview = parseMaterialX(
      documentOf(surfaceOf('UsdPreviewSurface', '<input name="emissiveColor" type="color3" value="0, 4, 0"/>')),
    )
    expect(preview.parameters).toMatchObject({ specularRoughness: 0.5, emissionLuminance: 2000, emissionColor: [0, 1, 0] })
  })

  it('take colours that stand in the file as displays have them for what they are', () => {
    const input = '<input name="base_color" type="color3" value="0.5, 0.5, 0.5"/>'
    const read = (attributes: string) =>
      parseMaterialX(documentOf(surfaceOf('standard_surface', input), attributes)).parameters.baseColor![0]
    expect(encodeSrgb(read('colorspace="srgb_texture"'))).toBeCloseTo(0.5, 5)
    expect(read('colorspace="lin_rec709"')).toBeCloseTo(0.5, 6)
  })

  it('name the files that are maps as they are, through graphs and interfaces, with prefixes', () => {
    const text = documentOf(
      `<nodegraph name="NG" fileprefix="maps/">
         <input name="picture" type="filename" value="oak_c.png" colorspace="srgb_texture"/>
         <image name="color" type="color3"><input name="file" type="filename" interfacename="picture"/></image>
         ${pictureOf('bumps', 'vector3', 'oak_n.png')}
         <normalmap name="bent" type="vector3"><input name="in" type="vector3" nodename="bumps"/>
           <input name="scale" type="vector2" value="1, -1"/></normalmap>
         ${pictureOf('shine', 'float', 'oak_g.png')}
         <invert name="dull" type="float"><input name="in" type="float" nodename="shine"/></invert>
         <output name="c" type="color3" nodename="color"/><output name="n" type="vector3" nodename="bent"/>
         <output name="r" type="float" nodename="dull"/>
       </nodegraph>
       ${surfaceOf(
         'open_pbr_surface',
         `<input name="base_color" type="color3" nodegraph="NG" output="c"/>
          <input name="geometry_normal" type="vector3" nodegraph="NG" output="n"/>
          <input name="specular_roughness" type="float" nodegraph="NG" output="r"/>`,
       )}`,
    )
    const { maps, baked, files, lost } = parseMaterialX(text)
    expect(maps).toEqual([
      { role: 'baseColor', file: 'maps/oak_c.png', handedness: null },
      { role: 'gloss', file: 'maps/oak_g.png', handedness: null },
      { role: 'normal', file: 'maps/oak_n.png', handedness: 'directX' },
    ])
    expect([baked, lost]).toEqual([[], []])
    expect(files.sort()).toEqual(['maps/oak_c.png', 'maps/oak_g.png', 'maps/oak_n.png'])
  })

  it('know a packed picture by its channels, and heights by the displacement', () => {
    const channel = (name: string, output: string) => `<input name="${name}" type="float" nodename="split" output="${output}"/>`
    const text = documentOf(
      `${pictureOf('packed', 'color3', 'arm.png')}${pictureOf('heights', 'float', 'h.exr')}
       <separate3 name="split" type="multioutput"><input name="in" type="color3" nodename="packed"/></separate3>
       <gltf_pbr name="srf" type="surfaceshader">${channel('occlusion', 'outr')}${channel('roughness', 'outg')}${channel('metallic', 'outb')}</gltf_pbr>
       <displacement name="dsp" type="displacementshader"><input name="displacement" type="float" nodename="heights"/></displacement>
       <surfacematerial name="Steel" type="material"><input name="surfaceshader" type="surfaceshader" nodename="srf"/>
         <input name="displacementshader" type="displacementshader" nodename="dsp"/></surfacematerial>`,
      '',
    )
    expect(parseMaterialX(text)).toMatchObject({
      baked: [],
      maps: [
        { role: 'height', file: 'h.exr' },
        { role: 'orm', file: 'arm.png' },
      ],
    })
  })

  it('of several materials are each found by its name, with its own files only', () => {
    const one = (name: string) =>
      `${pictureOf(`${name}_map`, 'float', `${name}.png`)}
       <standard_surface name="${name}_s" type="surfaceshader"><input name="metalness" type="float" nodename="${name}_map"/></standard_surface>
       <surfacematerial name="${name}" type="material"><input name="surfaceshader" type="surfaceshader" nodename="${name}_s"/></surfacematerial>`
    const text = documentOf(one('Brass') + one('Zinc'))
    expect(listMaterials(text)).toEqual(['Brass', 'Zinc'])
    expect(parseMaterialX(text, 'Zinc')).toMatchObject({ name: 'Zinc', files: ['Zinc.png'], maps: [{ role: 'metalness' }] })
    expect(parseMaterialX(text).name).toBe('Brass')
  })

  it('that are not known, or whose graph needs a scene, are told of', () => {
    expect(() => parseMaterialX(documentOf('<mtlx_hair name="srf" type="surfaceshader"/>'))).toThrow(/no surface/)
    expect(() =>
      parseMaterialX(
        documentOf(
          `<toon_surface name="srf" type="surfaceshader"/><surfacematerial name="A" type="material"><input name="surfaceshader" type="surfaceshader" nodename="srf"/></surfacematerial>`,
        ),
      ),
    ).toThrow(/toon_surface/)
    const text = documentOf(
      `<viewdirection name="view" type="vector3"/>${pictureOf('coat', 'float', 'coat.png')}
       ${surfaceOf('standard_surface', '<input name="metalness" type="float" nodename="view"/><input name="coat_roughness" type="float" nodename="coat"/>')}`,
    )
    expect(parseMaterialX(text).lost).toEqual(['viewdirection in metalness', 'what varies in coat_roughness'])
  })

  it('that lead back to themselves end, and are told of', () => {
    const text = documentOf(
      `<add name="a" type="float"><input name="in1" type="float" nodename="b"/></add>
       <add name="b" type="float"><input name="in1" type="float" nodename="a"/></add>
       ${surfaceOf('standard_surface', '<input name="metalness" type="float" nodename="a"/>')}`,
    )
    expect(parseMaterialX(text).lost).toEqual(['add in metalness'])
  })
})

describe('graphs worked out', () => {
  const picture = pictureOf('pic', 'color3', 'ramp.png')
  const red = `${picture}<extract name="red" type="float"><input name="in" type="color3" nodename="pic"/><input name="index" type="integer" value="0"/></extract>`

  it('read pictures texel by texel, rows from the top', () => {
    const values = bakeRoughness(
      `${picture}<extract name="last" type="float"><input name="in" type="color3" nodename="pic"/><input name="index" type="integer" value="1"/></extract>`,
    )
    for (let y = 0; y < 4; y++) for (const x of [0, 3, 7]) expect(at(values, x, y)).toBeCloseTo((3 - y) / 3, 5)
  })

  for (const [name, node, expected] of [
    [
      'multiply',
      '<input name="in1" type="float" nodename="red"/><input name="in2" type="float" value="0.5"/>',
      (v: number) => v / 2,
    ],
    ['power', '<input name="in1" type="float" nodename="red"/><input name="in2" type="float" value="2"/>', (v: number) => v * v],
    ['invert', '<input name="in" type="float" nodename="red"/>', (v: number) => 1 - v],
    [
      'clamp',
      '<input name="in" type="float" nodename="red"/><input name="low" type="float" value="0.3"/><input name="high" type="float" value="0.6"/>',
      (v: number) => Math.min(0.6, Math.max(0.3, v)),
    ],
    [
      'mix',
      '<input name="bg" type="float" value="0.2"/><input name="fg" type="float" value="0.8"/><input name="mix" type="float" nodename="red"/>',
      (v: number) => 0.2 + 0.6 * v,
    ],
    [
      'remap',
      '<input name="in" type="float" nodename="red"/><input name="outlow" type="float" value="0.4"/><input name="outhigh" type="float" value="0.5"/>',
      (v: number) => 0.4 + v / 10,
    ],
    [
      'range',
      '<input name="in" type="float" nodename="red"/><input name="gamma" type="float" value="2"/>',
      (v: number) => Math.sqrt(v),
    ],
    ['smoothstep', '<input name="in" type="float" nodename="red"/>', (v: number) => v * v * (3 - 2 * v)],
    [
      'ifgreater',
      '<input name="value1" type="float" nodename="red"/><input name="value2" type="float" value="0.5"/><input name="in1" type="float" value="0.9"/><input name="in2" type="float" value="0.1"/>',
      (v: number) => (v > 0.5 ? 0.9 : 0.1),
    ],
  ] as [string, string, (v: number) => number][])
    it(`${name} is what the specification says`, () => {
      const values = bakeRoughness(`${red}<${name} name="last" type="float">${node}</${name}>`)
      for (let x = 0; x < 8; x++) expect(at(values, x, 2)).toBeCloseTo(expected((7 - x) / 7), 5)
    })

  /** What a node of these inputs comes to, channel by channel: through its red, green and blue to three grey maps. */
  function bakeColor(category: string, inputs: string): number[] {
    const text = documentOf(
      `${pictureOf('pic', 'color3', 'ramp.png')}<${category} name="n" type="color3">${inputs}</${category}>
       ${surfaceOf('standard_surface', '<input name="base_color" type="color3" nodename="n"/>')}`,
    )
    const [map] = bakeMaps(text, null, findRamp, 8, 4)
    // The second texel of the third row.
    return [...map.data.slice((2 * 8 + 1) * 3, (2 * 8 + 1) * 3 + 3)]
  }
  const [r, g, b] = [6 / 7, 1 / 3, 0.25]
  const of = (name: string, value: string) =>
    value === 'pic'
      ? `<input name="${name}" type="color3" nodename="pic"/>`
      : `<input name="${name}" type="${value.includes(',') ? 'color3' : 'float'}" value="${value}"/>`
  const grey = 0.2126 * r + 0.7152 * g + 0.0722 * b

  for (const [name, inputs, expected] of [
    ['add', of('in1', 'pic') + of('in2', '0.1, 0.2, 0.3'), [r + 0.1, g + 0.2, b + 0.3]],
    ['subtract', of('in1', 'pic') + of('in2', '0.2'), [r - 0.2, g - 0.2, b - 0.2]],
    ['divide', of('in1', 'pic') + of('in2', '2'), [r / 2, g / 2, b / 2]],
    ['modulo', of('in1', 'pic') + of('in2', '0.3'), [r % 0.3, g % 0.3, b % 0.3]],
    ['min', of('in1', 'pic') + of('in2', '0.3'), [0.3, 0.3, 0.25]],
    ['max', of('in1', 'pic') + of('in2', '0.3'), [r, g, 0.3]],
    ['sqrt', of('in', 'pic'), [Math.sqrt(r), Math.sqrt(g), 0.5]],
    ['ceil', of('in', 'pic'), [1, 1, 1]],
    ['floor', of('in', 'pic'), [0, 0, 0]],
    ['contrast', of('in', 'pic') + of('amount', '0.5'), [r, g, b].map(v => (v - 0.5) / 2 + 0.5)],
    ['luminance', of('in', 'pic'), [grey, grey, grey]],
    ['saturate', of('in', 'pic') + of('amount', '0'), [grey, grey, grey]],
    ['hsvadjust', of('in', 'pic') + of('amount', '0, 0, 1'), [r, r, r]],
    ['hsvtorgb', of('in', '0.3333333, 1, 0.6'), [0, 0.6, 0]],
    ['normalize', of('in', 'pic'), [r, g, b].map(v => v / Math.hypot(r, g, b))],
    ['combine3', of('in1', '0.1') + of('in2', '0.2') + of('in3', '0.3'), [0.1, 0.2, 0.3]],
    ['convert', of('in', '0.4'), [0.4, 0.4, 0.4]],
    ['swizzle', `${of('in', 'pic')}<input name="channels" type="string" value="bg0"/>`, [b, g, 0]],
    ['switch', of('which', '1') + of('in1', '0.1, 0.1, 0.1') + of('in2', 'pic'), [r, g, b]],
    ['ifequal', of('value1', '2') + of('value2', '2') + of('in1', 'pic') + of('in2', '0, 0, 0'), [r, g, b]],
    ['ramplr', of('valuel', '0, 0, 0') + of('valuer', '1, 0.5, 0'), [1.5 / 8, 1.5 / 16, 0]],
    ['ramptb', of('valuet', '1, 1, 1') + of('valueb', '0, 0, 0'), [1 - 2.5 / 4, 1 - 2.5 / 4, 1 - 2.5 / 4]],
    ['splitlr', of('valuel', '0.2, 0.3, 0.4') + of('valuer', '1, 1, 1'), [0.2, 0.3, 0.4]],
    ['splittb', of('valuet', '0.2, 0.3, 0.4') + of('valueb', '0.5, 0.6, 0.7'), [0.5, 0.6, 0.7]],
    ['constant', of('value', '0.3, 0.2, 0.1'), [0.3, 0.2, 0.1]],
    ['dot', of('in', 'pic'), [r, g, b]],
  ] as [string, string, number[]][])
    it(`${name} works on colours`, () => {
      bakeOrRead(name, inputs).forEach((v, i) => {
        expect(v).toBeCloseTo(expected[i], 5)
      })
    })

  /** What does not vary is a constant of the material, not a map. */
  function bakeOrRead(category: string, inputs: string): number[] {
    if (inputs.includes('pic') || /^(ramp|split)/.test(category)) return bakeColor(category, inputs)
    const text = documentOf(
      `<${category} name="n" type="color3">${inputs}</${category}>
       ${surfaceOf('standard_surface', '<input name="base_color" type="color3" nodename="n"/>')}`,
    )
    return [...parseMaterialX(text).parameters.baseColor!]
  }

  it('turn, move and repeat by their texture coordinates', () => {
    const placed = (place: string) =>
      bakeRoughness(`<texcoord name="uv" type="vector2"/>
        <place2d name="p" type="vector2"><input name="texcoord" type="vector2" nodename="uv"/>${place}</place2d>
        <image name="pic" type="color3"><input name="file" type="filename" value="ramp.png"/><input name="texcoord" type="vector2" nodename="p"/></image>
        <extract name="last" type="float"><input name="in" type="color3" nodename="pic"/></extract>`)
    const moved = placed('<input name="offset" type="vector2" value="0.25, 0"/>')
    for (let x = 0; x < 8; x++) expect(at(moved, x, 0)).toBeCloseTo((7 - ((x + 6) % 8)) / 7, 5)
    const tiled = bakeRoughness(`<tiledimage name="pic" type="color3"><input name="file" type="filename" value="ramp.png"/>
      <input name="uvtiling" type="vector2" value="2, 1"/></tiledimage><extract name="last" type="float"><input name="in" type="color3" nodename="pic"/></extract>`)
    expect(at(tiled, 0, 0)).toBeCloseTo(at(tiled, 4, 0), 6)
    expect(at(tiled, 0, 0)).toBeCloseTo((1 + 6 / 7) / 2, 5)
  })

  it('are procedural: checks, cells and noise lie between their bounds and repeat by the same numbers', () => {
    const checks = bakeRoughness(
      '<checkerboard name="last" type="float"><input name="uvtiling" type="vector2" value="8, 4"/></checkerboard>',
    )
    expect(new Set(checks)).toEqual(new Set([0, 1]))
    expect(at(checks, 0, 0)).not.toBe(at(checks, 1, 0))
    for (const node of ['noise2d', 'cellnoise2d', 'fractal2d']) {
      const made = () =>
        bakeRoughness(`<texcoord name="uv" type="vector2"/><multiply name="m" type="vector2"><input name="in1" type="vector2" nodename="uv"/><input name="in2" type="vector2" value="9, 9"/></multiply>
          <${node} name="n" type="float"><input name="texcoord" type="vector2" nodename="m"/></${node}>
          <remap name="last" type="float"><input name="in" type="float" nodename="n"/><input name="inlow" type="float" value="-1"/></remap>`)
      expect(made()).toEqual(made())
      expect(Math.max(...made()) - Math.min(...made())).toBeGreaterThan(0.2)
    }
  })

  it('colours come out linear, normals as a map holds them', () => {
    const text = documentOf(
      `${pictureOf('pic', 'color3', 'ramp.png', 'colorspace="srgb_texture"')}
       <multiply name="tint" type="color3"><input name="in1" type="color3" nodename="pic"/><input name="in2" type="color3" value="1, 1, 0.5"/></multiply>
       <extract name="h" type="float"><input name="in" type="color3" nodename="pic"/></extract>
       <heighttonormal name="n" type="vector3"><input name="in" type="float" nodename="h"/></heighttonormal>
       ${surfaceOf('standard_surface', '<input name="base_color" type="color3" nodename="tint"/><input name="normal" type="vector3" nodename="n"/>')}`,
    )
    expect(parseMaterialX(text).baked).toEqual(['baseColor', 'normal'])
    const [color, normal] = bakeMaps(text, null, findRamp, 8, 4)
    expect(encodeSrgb(color.data[0])).toBeCloseTo(1, 5)
    expect(encodeSrgb(color.data[2] / 0.5)).toBeCloseTo(0.25, 5)
    // The height falls to the right, so the surface leans that way.
    const [x, y, z] = [...normal.data.slice(9, 12)].map(v => v * 2 - 1)
    expect(x).toBeGreaterThan(0)
    expect(y).toBeCloseTo(0, 4)
    expect(Math.hypot(x, y, z)).toBeCloseTo(1, 4)
  })

  it('that would never end are refused', () => {
    const depth = 14
    const slopes = Array.from(
      { length: depth },
      (
        _,
        i,
      ) => `<heighttonormal name="h${i}" type="vector3"><input name="in" type="float" nodename="${i ? `x${i - 1}` : 'red'}"/></heighttonormal>
        <extract name="x${i}" type="float"><input name="in" type="vector3" nodename="h${i}"/></extract>`,
    ).join('')
    expect(() => bakeRoughness(red + slopes, `x${depth - 1}`)).toThrow(/takes longer/)
  })

  it('damaged in any way are worked out or refused, and never break off', () => {
    const text = documentOf(
      `<nodegraph name="NG">${red}<noise2d name="n" type="float"/><mix name="m" type="float"><input name="fg" type="float" nodename="red"/>
         <input name="bg" type="float" nodename="n"/><input name="mix" type="float" value="0.5"/></mix>
         <heighttonormal name="h" type="vector3"><input name="in" type="float" nodename="m"/></heighttonormal>
         <output name="r" type="float" nodename="m"/><output name="n" type="vector3" nodename="h"/></nodegraph>
       ${surfaceOf('standard_surface', '<input name="metalness" type="float" nodegraph="NG" output="r"/><input name="normal" type="vector3" nodegraph="NG" output="n"/>')}`,
    )
    return attack('mtlx', new TextEncoder().encode(text), 300, bytes => {
      for (const { data } of bakeMaps(new TextDecoder().decode(bytes), null, findRamp, 4, 4))
        expect(data.every(Number.isFinite)).toBe(true)
    })
  })

  it('of a picture that is missing have its default', () => {
    const values = bakeRoughness(
      `<image name="gone" type="float"><input name="file" type="filename" value="gone.png"/><input name="default" type="float" value="0.7"/></image>
       <multiply name="last" type="float"><input name="in1" type="float" nodename="gone"/></multiply>`,
    )
    expect(at(values, 3, 3)).toBeCloseTo(0.7, 5)
  })
})
