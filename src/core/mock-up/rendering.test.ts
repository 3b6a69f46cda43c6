import { describe, expect, it } from 'vitest'
import { createBox } from '../geometry/shapes'
import { createFloatImage, type FloatImage } from '../image/image'
import { createMaterial } from '../material/open-pbr'
import { turnAbout } from '../math/quaternion'
import { finishRendering } from '../render/integrator/render'
import { EnvironmentLight } from '../render/lights/environment-light'
import { composePieces, composeScene, lightOfShot } from './composing/compose'
import { prepareShot } from './composing/render-shot'
import { StandingScene } from './composing/standing-scene'
import { lightForShadow } from './light/sun-position'
import { listRefs } from './materials/list-refs'
import { assignTo } from './materials/wearing'
import { beginLight } from './scene/begin'
import { applyChange, differenceOf, isNoChange } from './scene/change'
import { place } from './scene/pieces'
import { EMPTY_SCENE, type ItemRef, type Scene, type Shot, sceneSchema } from './scene/scene'
import type { Resources } from './things/resources'

const refOf = (code: string, key: string): ItemRef => ({ code, version: 1, inputKey: key.repeat(64) })
const POST = refOf('OBJ-0001', 'a')
const RED = refOf('ENA-0001', 'b')
const SKY = refOf('SKY-0001', 'c')

/** A dim sky with a small sun in the middle of the picture, which is north, 30 degrees high. */
function skyWithSun(): FloatImage {
  const [width, height] = [256, 128]
  const map = createFloatImage(width, height, 3)
  map.data.fill(0.15)
  for (let y = 41; y < 44; y++) for (let x = 127; x < 129; x++) map.data.fill(4000, (y * width + x) * 3, (y * width + x) * 3 + 3)
  return map
}
const post = createBox(0.3, 1, 0.3)
const resources: Resources = {
  models: new Map([
    [
      POST.inputKey,
      [
        {
          name: 'body',
          mesh: { ...post, positions: post.positions.map((v, i) => (i % 3 === 1 ? v + 0.5 : v)) },
          hasUvs: true,
          material: createMaterial('grey', { baseColor: [0.5, 0.5, 0.5] }),
          images: [],
        },
      ],
    ],
  ]),
  materials: new Map([[RED.inputKey, { material: createMaterial('red', { baseColor: [0.7, 0.02, 0.02] }), images: [] }]]),
  skies: new Map([[SKY.inputKey, skyWithSun()]]),
  webs: new Map(),
}
const shot: Shot = {
  name: 'From above',
  place: 1,
  position: [0, 9, 0.01],
  target: [0, 0, 0],
  focalMm: 24,
  aspect: 1,
  isUpright: false,
  ev: 0,
  sky: 'sun',
  variants: {},
  focus: null,
}
const scene = (turnDeg = 0): Scene =>
  sceneSchema.parse({
    ...applyChange(EMPTY_SCENE, place('a', POST, { name: 'Post', at: [0, 0, 0] })).scene,
    skies: { sun: { item: SKY, name: 'Sun', turnDeg, ev: 0, background: 'shown' } },
    shots: { top: shot },
  })

const SETTINGS = { width: 72, seed: 1, noiseTarget: 0.02, maxSamples: 24, denoised: true }
function picture(of: Scene): FloatImage {
  const prepared = prepareShot(of, of.shots.top, resources)
  const rendering = prepared.start(SETTINGS)
  while (rendering.step());
  return finishRendering(rendering.tiles, prepared.settingsOf(SETTINGS), rendering.rays, rendering.clamped).image
}

/** Where the shadow lies from the middle, in metres: the frame is 9 m wide. */
function shadowIn({ width, height, data }: FloatImage): [number, number] {
  const values = Array.from({ length: width * height }, (_, p) => data[p * 3 + 1])
  const lit = [...values].sort((a, b) => a - b)[Math.floor(values.length * 0.7)]
  let [sum, x, z] = [0, 0, 0]
  values.forEach((v, p) => {
    const [i, j] = [(p % width) + 0.5 - width / 2, Math.floor(p / width) + 0.5 - height / 2]
    // The post itself stands in the middle.
    if (v > lit * 0.7 || Math.hypot(i, j) < 3) return
    sum++
    x += i
    z += j
  })
  expect(sum).toBeGreaterThan(4)
  return [(x / sum / width) * 9, (z / sum / height) * 9]
}

const WORN = { material: RED, turnDeg: 0, offsetM: [0, 0] as [number, number], mapping: 'own' as const, override: {} }
const moveFirst = (of: Scene): Scene =>
  applyChange(of, { pieces: { a: { ...of.pieces.a, position: [0.7, 0, -0.4], turn: turnAbout([0, 1, 0], 30) } } }).scene

describe('a shot', () => {
  it('has the shadow where the turn of its sky says, which is where the light for that shadow was worked out', () => {
    for (const turnDeg of [0, 70, -120]) {
      const [x, z] = shadowIn(picture(scene(turnDeg)))
      // The sun's own azimuth is north; turned counter-clockwise it goes west.
      const { azimuthDeg } = lightForShadow([0, 1, 0], [x, 0, z])!
      expect(((azimuthDeg + turnDeg + 540) % 360) - 180).toBeCloseTo(0, -1)
    }
  })

  it('is the same to the pixel for the same scene and seed, and another for another', () => {
    const first = picture(scene())
    expect(picture(scene()).data).toEqual(first.data)
    expect(picture(scene(5)).data).not.toEqual(first.data)
  })

  it('leaves out what is not there and keeps the rest', () => {
    const lost = applyChange(scene(), place('b', refOf('OBJ-0002', 'f'), { name: 'Lost', at: [1, 0, 0] })).scene
    expect(picture(lost).data).toEqual(picture(scene()).data)
  })
})

describe('what is behind everything', () => {
  it('is the sky itself, the sky out of focus and as bright, or an even grey', () => {
    const under = (background: 'shown' | 'blurred' | 'plain') => {
      const whole = scene()
      return lightOfShot({ ...whole, skies: { sun: { ...whole.skies.sun, background } } }, shot, resources)
    }
    expect(under('shown').background).toBeNull()
    expect(under('plain').background).toHaveLength(3)
    const { light, background } = under('blurred')
    expect(background).toBeInstanceOf(EnvironmentLight)
    const behind = background as EnvironmentLight
    expect(behind.gain).toBe(light.gain)
    const [sharp, soft] = [new Float64Array(3), new Float64Array(3)]
    const away = Math.cos(Math.PI / 6)
    light.radiance(0, 0.5, -away, sharp)
    behind.radiance(0, 0.5, -away, soft)
    expect(soft[0]).toBeLessThan(sharp[0] / 100)
    behind.radiance(0, 0, 1, soft)
    light.radiance(0, 0, 1, sharp)
    expect(soft[0]).toBeCloseTo(sharp[0], 4)
  })
})

describe('a scene put together', () => {
  const many = () =>
    Array.from({ length: 12 }, (_, k) => k).reduce(
      (s, k) => applyChange(s, place(`p${k}`, POST, { name: 'Post', at: [k, 0, 0], turnDeg: k * 7 })).scene,
      EMPTY_SCENE,
    )

  it('keeps instances once, and parts those that wear something else', () => {
    expect(composePieces(many(), resources).map(c => c.placements.length)).toEqual([12])
    const red = applyChange(many(), assignTo(many(), [{ piece: 'p3', part: 'body' }], WORN)).scene
    const composed = composePieces(red, resources)
    expect(composed.map(c => c.placements.length).sort((a, b) => a - b)).toEqual([1, 11])
    expect(composed.find(c => c.placements.length === 1)!.parts[0].material.name).toBe('red')
    const rough = applyChange(
      red,
      assignTo(red, [{ piece: 'p3', part: 'body' }], { ...WORN, override: { specularRoughness: 0.9 } }),
    ).scene
    const adjusted = composePieces(rough, resources).find(c => c.placements.length === 1)!.parts[0]
    expect(adjusted.material.parameters.specularRoughness).toBe(0.9)
    expect(resources.materials.get(RED.inputKey)!.material.parameters.specularRoughness).not.toBe(0.9)
    // Put together again, it is the same mesh: nothing is built anew.
    expect(composePieces(rough, resources).find(c => c.placements.length === 1)!.parts[0].mesh).toBe(adjusted.mesh)
    expect(listRefs(red).map(r => r.code)).toEqual(['OBJ-0001', 'ENA-0001'])
  })

  it.each<[string, (of: Scene) => Scene]>([
    ['a piece was moved', of => moveFirst(of)],
    ['a light was dimmed', of => applyChange(of, { lights: { bulb: { ...of.lights.bulb, share: 0.25 } } }).scene],
    [
      'a light was hung elsewhere',
      of => applyChange(of, { lights: { bulb: { ...of.lights.bulb, position: [-1, 2, 0.5] } } }).scene,
    ],
    ['a material was put on it', of => applyChange(of, assignTo(of, [{ piece: 'a', part: 'body' }], WORN)).scene],
    ['another of it came', of => applyChange(of, { pieces: { b: { ...of.pieces.a, position: [1, 0, 1] } } }).scene],
    ['it went', of => applyChange(of, { pieces: { a: null } }).scene],
    ['it was exposed for longer', of => applyChange(of, { shots: { top: { ...of.shots.top, ev: 1 } } }).scene],
  ])('that stands is the same picture as one that is built for it, after %s', (_, alter) => {
    const lit = applyChange(scene(), { lights: { bulb: beginLight('Bulb', [1, 2, 0], { kind: 'bulb' }) } }).scene
    const part = { index: 0, count: 1 }
    const trace = (standing: StandingScene, of: Scene) => {
      const rendering = standing.start(of, of.shots.top, resources, SETTINGS, part)
      for (const tile of rendering.tiles) tile.goal = SETTINGS.maxSamples
      while (rendering.step());
      return rendering.tiles.map(t => [...t.halves[0].sums])
    }
    const standing = new StandingScene()
    const before = trace(standing, lit)
    const after = trace(standing, alter(lit))
    expect(after).toEqual(trace(new StandingScene(), alter(lit)))
    expect(after).not.toEqual(before)
  })

  it('that stands grows by next to nothing, however often it is looked at from elsewhere', () => {
    const standing = new StandingScene()
    const unlit = { ...scene(), skies: {}, shots: { top: { ...scene().shots.top, sky: null } } }
    const bytesFrom = (of: Scene, x: number): number => {
      const seen = { ...of.shots.top, position: [x, 9, 0.01] as [number, number, number] }
      const rendering = standing.start(of, seen, resources, SETTINGS)
      rendering.step()
      return rendering.copied!.bytes
    }
    for (const of of [scene(), unlit]) {
      const before = bytesFrom(of, 0)
      for (let k = 1; k < 6; k++) bytesFrom(of, k / 10)
      expect(bytesFrom(of, 1) - before).toBeLessThan(8192)
    }
  })

  it('of a room is cut open towards whoever looks at it from outside, and closed from inside', () => {
    const room = {
      ...EMPTY_SCENE,
      stage: { kind: 'room' as const, materials: {}, widthM: 4, depthM: 4, heightM: 3, openings: [] },
    }
    const sides = (from: [number, number, number]) =>
      composeScene(room, resources, { position: from, sky: null }).loose.map(p => p.name)
    expect(sides([0, 1, 0])).toEqual(expect.arrayContaining(['wall north', 'wall east', 'wall south', 'wall west', 'ceiling']))
    expect(sides([5, 1, 6])).not.toContain('wall south')
    expect(sides([5, 1, 6])).not.toContain('wall east')
    expect(sides([5, 1, 6])).toContain('wall west')
    expect(sides([0, 9, 0])).not.toContain('ceiling')
  })

  it('shows what was adjusted on a part alone: constants and maps, made once as long as it stays', () => {
    const picture = { width: 2, height: 2, channels: 3, data: new Uint8Array(12).fill(188) }
    const mapped = createMaterial('mapped', {}, { textures: { baseColor: { image: 0, channel: 0 } }, tileSizeM: [1, 1] })
    const both: Resources = {
      ...resources,
      materials: new Map([
        [RED.inputKey, resources.materials.get(RED.inputKey)!],
        ['d'.repeat(64), { material: mapped, images: [picture] }],
      ]),
    }
    const wearing = (material: ItemRef) =>
      applyChange(
        scene(),
        assignTo(scene(), [{ piece: 'a', part: 'body' }], {
          ...{ material, turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: { coatWeight: 1 } },
          shift: { tint: [0.5, 0.5, 0.5], roughness: 2, relief: 1 },
        }),
      ).scene
    const partOf = (material: ItemRef) => composeScene(wearing(material), both).placed[0].parts[0]
    const plain = partOf(RED).material.parameters
    expect(plain.baseColor).toEqual([0.35, 0.01, 0.01])
    expect([plain.specularRoughness, plain.coatWeight]).toEqual([0.6, 1])
    const part = partOf(refOf('TIM-0001', 'd'))
    const { image } = part.material.textures.baseColor!
    // Half the light of sRGB's 188.
    expect(part.images[image].data[0]).toBe(137)
    expect(picture.data[0]).toBe(188)
    expect(partOf(refOf('TIM-0001', 'd')).images[image]).toBe(part.images[image])
  })

  it('hides what is hidden, and greys what has no material yet', () => {
    const hidden = applyChange(many(), { pieces: { p0: { ...many().pieces.p0, isHidden: true } } }).scene
    expect(composePieces(hidden, resources)[0].placements).toHaveLength(11)
    const { loose } = composeScene(many(), resources)
    expect(loose.map(p => p.name)).toEqual(['ground'])
    const [r, g, b] = loose[0].material.parameters.baseColor
    expect(r === g && g === b).toBe(true)
  })
})

describe('the difference of two scenes', () => {
  it('makes one the other, and is nothing between the same', () => {
    const [a, b] = [scene(), applyChange(scene(40), place('z', POST, { name: 'Z', at: [2, 0, 0] })).scene]
    expect(applyChange(a, differenceOf(a, b)).scene).toEqual(b)
    expect(applyChange(b, differenceOf(b, a)).scene).toEqual(a)
    expect(isNoChange(differenceOf(a, scene()))).toBe(true)
  })
})
