import { describe, expect, it } from 'vitest'
import { tokenizeName, withCapitals } from '../file-names'
import { type MapCandidate, type MapRole, recognizeTextureSets } from './texture-set'

/** Names as deliveries of game and print textures have them. */

type Look = MapRole | 'grey' | 'nothing'

const candidate = (path: string, look: Look = 'nothing', size: [number, number] = [1024, 1024]): MapCandidate => ({
  path,
  widthPx: size[0],
  heightPx: size[1],
  bitsPerChannel: 8,
  contentRole: look === 'nothing' || look === 'grey' ? null : { role: look, confidence: 0.8 },
})

/** Sets as "stem: role=file, …", and what is left. */
function sort(...files: (string | [string, Look] | [string, Look, [number, number]])[]) {
  const { sets, leftOver } = recognizeTextureSets(
    files.map(f => (typeof f === 'string' ? candidate(f) : candidate(f[0], f[1], f[2]))),
  )
  const told = sets.map(
    s =>
      `${s.stem}: ${s.maps
        .map(m => `${m.role}=${m.path}`)
        .sort()
        .join(', ')}`,
  )
  return { sets: told.sort(), leftOver, pictures: sets.flatMap(s => s.pictures), variants: sets.flatMap(s => s.variantOf ?? []) }
}

describe('roles by names that others use', () => {
  it.each([
    ['norm', 'normal'],
    ['gloss', 'gloss'],
    ['bump', 'height'],
    ['glow', 'emission'],
    ['spec', 'specular'],
    ['alb', 'baseColor'],
    ['nrm', 'normal'],
    ['disp', 'height'],
    ['ao', 'ambientOcclusion'],
    ['dif', 'baseColor'],
    ['color', 'baseColor'],
  ])('%s means %s', (word, role) => {
    expect(sort(`floor-${word}.jpg`).sets).toEqual([`floor: ${role}=floor-${word}.jpg`])
  })

  it('a letter is a role where another one of the same name has another', () => {
    expect(sort('wall_d.tga', 'wall_n.tga', 'wall_s.tga').sets).toEqual([
      'wall: baseColor=wall_d.tga, normal=wall_n.tga, specular=wall_s.tga',
    ])
    expect(sort('gate.tga', 'gate_n.tga').sets).toEqual(['gate: baseColor=gate.tga, normal=gate_n.tga'])
    expect(sort('rust_diff.png', 'rust_m.png').sets).toEqual(['rust: baseColor=rust_diff.png, metalness=rust_m.png'])
  })

  it('a letter that counts is none', () => {
    const counted = sort(...['a', 'b', 'c', 'd', 'e'].map((l): [string, Look] => [`oak_${l}.jpg`, 'baseColor']))
    expect(counted.sets).toEqual(['a', 'b', 'c', 'd', 'e'].map(l => `oak ${l}: baseColor=oak_${l}.jpg`))
    expect(sort(['sign_n.png', 'baseColor']).sets).toEqual(['sign n: baseColor=sign_n.png'])
  })
})

describe('what a set lacks', () => {
  it('the plain name has: grey concrete is its colour, though its pixels say nothing', () => {
    expect(sort(['concrete.jpg', 'grey'], 'concrete_gloss.jpg', 'concrete_bump.jpg')).toMatchObject({
      sets: ['concrete: baseColor=concrete.jpg, gloss=concrete_gloss.jpg, height=concrete_bump.jpg'],
      leftOver: [],
    })
    // What looks like a roughness by itself is the colour where a roughness is there.
    expect(sort(['steel.png', 'roughness'], 'steel_rough.png').sets).toEqual([
      'steel: baseColor=steel.png, roughness=steel_rough.png',
    ])
  })

  it('is not decided for one that lacks nothing: the plain name is its picture then', () => {
    expect(sort(['oak.jpg', 'grey'], 'oak_diff.png', 'oak_norm.png')).toMatchObject({
      sets: ['oak: baseColor=oak_diff.png, normal=oak_norm.png'],
      leftOver: [],
      pictures: ['oak.jpg'],
    })
  })

  it('is nobody’s where nothing of its name is there; a page or a screen is no material', () => {
    expect(sort(['street.jpg', 'grey']).leftOver).toEqual(['street.jpg'])
    for (const name of ['10.jpg', '11.png', 'Screenshot 2026-01-02.png', 'IMG_2043.jpg', 'readme.png'])
      expect(sort([name, 'baseColor'])).toMatchObject({ sets: [], leftOver: [name] })
    expect(sort(['10_diff.jpg', 'baseColor'], '10_norm.jpg').sets).toHaveLength(1)
  })
})

describe('variants', () => {
  it('use the other maps of the set whose name theirs begins with', () => {
    expect(
      sort(['wall.jpg', 'baseColor'], 'wall_norm.jpg', ['wall_red.jpg', 'baseColor'], ['wall_blue.jpg', 'baseColor']),
    ).toMatchObject({
      sets: [
        'wall blue: baseColor=wall_blue.jpg, normal=wall_norm.jpg',
        'wall red: baseColor=wall_red.jpg, normal=wall_norm.jpg',
        'wall: baseColor=wall.jpg, normal=wall_norm.jpg',
      ],
      variants: ['wall', 'wall'],
    })
    expect(sort(['floor_01.jpg', 'baseColor'], 'floor_01_norm.jpg', ['floor_01b.jpg', 'baseColor']).sets).toEqual([
      'floor 01: baseColor=floor_01.jpg, normal=floor_01_norm.jpg',
      'floor 01b: baseColor=floor_01b.jpg, normal=floor_01_norm.jpg',
    ])
  })

  it('are all there is of a set that has no colour of its own', () => {
    expect(sort('door_norm.jpg', ['door_red.jpg', 'baseColor'], ['door_oak.jpg', 'baseColor']).sets).toEqual([
      'door oak: baseColor=door_oak.jpg, normal=door_norm.jpg',
      'door red: baseColor=door_red.jpg, normal=door_norm.jpg',
    ])
  })

  it('are none where they have maps of their own, lie elsewhere or are of another shape', () => {
    expect(sort(['wall.jpg', 'baseColor'], 'wall_norm.jpg', ['wall_red.jpg', 'baseColor'], 'wall_red_norm.jpg').variants).toEqual(
      [],
    )
    expect(sort(['a/wall.jpg', 'baseColor'], 'a/wall_norm.jpg', ['b/wall_red.jpg', 'baseColor']).variants).toEqual([])
    expect(sort(['wall.jpg', 'baseColor'], 'wall_norm.jpg', ['wall_red.jpg', 'baseColor', [1024, 256]]).variants).toEqual([])
  })
})

describe('titles', () => {
  it.each([
    ['eX_floor_plate.tga', 'eX floor plate'],
    ['Panel_HPL_white.png', 'panel HPL white'],
    ['OAK_PLANK.png', 'oak plank'],
    ['OakPlank02.png', 'oak plank02'],
    ['MDF-board.jpg', 'MDF board'],
    ['AllIndicesOutOfRange.glb', 'all indices out of range'],
  ])('%s keeps what its capitals say', (path, title) => {
    expect(withCapitals(tokenizeName(path), path).join(' ')).toBe(title)
  })
})
