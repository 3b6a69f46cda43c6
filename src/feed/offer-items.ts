import { readFile, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { writeHdr } from '#core/codecs/hdr'
import { createFileWriter } from '../demo/file-writer'
import { DEMO_PIECES, encodeMap, makePiece } from '../demo/make-file'
import { makeSky, SKY_RECIPES } from '../demo/skies'
import { alternate, boards, brushedMetal, terrazzo, weave } from '../demo/surface-textures'
import { lch, makeMaps, type TextureRecipe } from '../demo/texture-set'

/** One version of something on offer, and how its files come about. */
export interface OfferedVersion {
  id: string
  title: string
  kind: 'material' | 'model' | 'environment'
  category: string
  tags: string[]
  widthMm?: number
  version: number
  released: string
  note: string
  isWithdrawn?: boolean
  /** Writes the files below `root` and gives their paths relative to it. Deterministic. */
  make: (root: string) => Promise<string[]>
}

/** Small enough that a first start does not wait for it. */
const SIZE_PX = 512

const texture =
  (recipe: Omit<TextureRecipe, 'folder' | 'sizePx'>) =>
  async (root: string): Promise<string[]> => {
    const { put, written } = createFileWriter(root)
    for (const map of makeMaps({ ...recipe, folder: '', sizePx: SIZE_PX }))
      await put(`${recipe.stem}_${map.role}_512.png`, await encodeMap(map))
    await put('read me.txt', `${recipe.stem.replaceAll('_', ' ')}\nOne repeat is ${recipe.widthMm} mm wide.\n`)
    return written
  }

const fumedOak = (seed: number) =>
  texture({
    stem: 'Oak_Plank_Fumed',
    widthMm: 1200,
    texel: boards(seed, { boards: 6, joints: 1, widthMm: 1200 }, [lch(0.25, 0.03, 55), lch(0.41, 0.042, 62)], 1.4, 2.2, 0.5),
  })

/** What the simulated supplier offers, older versions first. */
export const OFFERED: readonly OfferedVersion[] = [
  {
    id: 'oak-plank-fumed',
    title: 'Oak plank, fumed',
    kind: 'material',
    category: 'Wood / Flooring',
    tags: ['oak', 'dark', 'plank'],
    widthMm: 1200,
    version: 1,
    released: '2026-09-14',
    note: 'First scan',
    make: fumedOak(91),
  },
  {
    id: 'oak-plank-fumed',
    title: 'Oak plank, fumed',
    kind: 'material',
    category: 'Wood / Flooring',
    tags: ['oak', 'dark', 'plank'],
    widthMm: 1200,
    version: 2,
    released: '2026-11-20',
    note: 'Scanned again with less knots in a row',
    make: fumedOak(92),
  },
  {
    id: 'terrazzo-harbour-sand',
    title: 'Terrazzo, harbour sand',
    kind: 'material',
    category: 'Stone / Terrazzo',
    tags: ['terrazzo', 'warm'],
    widthMm: 600,
    version: 1,
    released: '2026-10-02',
    note: 'Sister of the grey one',
    make: texture({
      stem: 'Terrazzo_Harbour_Sand',
      widthMm: 600,
      texel: terrazzo(93, lch(0.8, 0.03, 80), [lch(0.55, 0.05, 65), lch(0.9, 0.02, 90), lch(0.66, 0.04, 40)]),
    }),
  },
  {
    id: 'linen-weave-charcoal',
    title: 'Linen weave, charcoal',
    kind: 'material',
    category: 'Fabric / Upholstery',
    tags: ['linen', 'dark'],
    widthMm: 120,
    version: 1,
    released: '2026-10-02',
    note: '',
    make: texture({
      stem: 'Linen_Weave_Charcoal',
      widthMm: 120,
      texel: weave(94, 64, alternate, lch(0.36, 0.01, 260), lch(0.31, 0.012, 250), 0.5, 1.1),
    }),
  },
  {
    id: 'bronze-brushed',
    title: 'Bronze, brushed',
    kind: 'material',
    category: 'Metal',
    tags: ['bronze', 'brushed'],
    widthMm: 400,
    version: 1,
    released: '2026-10-11',
    note: '',
    make: texture({
      stem: 'Bronze_Brushed',
      widthMm: 400,
      hasMetal: true,
      texel: brushedMetal(95, [0.6, 0.43, 0.26], 0.3, 192),
    }),
  },
  {
    id: 'brass-hammered',
    title: 'Brass, hammered',
    kind: 'material',
    category: 'Metal',
    tags: ['brass'],
    widthMm: 400,
    version: 1,
    released: '2026-08-01',
    note: 'Taken back: the sample was lacquered',
    isWithdrawn: true,
    make: texture({
      stem: 'Brass_Hammered',
      widthMm: 400,
      hasMetal: true,
      texel: brushedMetal(96, [0.86, 0.65, 0.33], 0.28, 64),
    }),
  },
  {
    id: 'counter-stool',
    title: 'Counter stool',
    kind: 'model',
    category: 'Furniture / Seating',
    tags: ['stool'],
    version: 1,
    released: '2026-06-30',
    note: '',
    make: async root => {
      const { put, written } = createFileWriter(root)
      const piece = DEMO_PIECES.find(p => p.stem === 'Counter_Stool')!
      const [path] = await makePiece(piece, join(root, 'made'))
      await put('Counter_Stool.glb', await readFile(join(root, 'made', path)))
      await rm(join(root, 'made'), { recursive: true, force: true })
      return written
    },
  },
  {
    id: 'overcast-quiet',
    title: 'Overcast, quiet light',
    kind: 'environment',
    category: 'HDRI / Sky',
    tags: ['overcast', 'soft'],
    version: 1,
    released: '2026-11-02',
    note: 'For interiors by the window',
    make: async root => {
      const { put, written } = createFileWriter(root)
      const recipe = SKY_RECIPES.find(r => r.stem === 'Overcast_Soft_Sky')!
      // The same cover of cloud an hour later: turned, and a little warmer.
      const later = {
        ...recipe,
        radiance: (...[direction, azimuth, elevation]: Parameters<typeof recipe.radiance>) => {
          const [r, g, b] = recipe.radiance(direction, azimuth, elevation)
          return [r * 1.04, g, b * 0.93] as [number, number, number]
        },
      }
      await put('Overcast_Quiet_1k.hdr', writeHdr(makeSky(later, 1024)))
      return written
    },
  },
]
