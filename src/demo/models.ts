import { type Mesh, mergeMeshes, placeMesh } from '#core/geometry/mesh'
import {
  createBox,
  createExtrusion,
  createLathe,
  createSphere,
  createTube,
  type Point2,
  roundCorners,
} from '#core/geometry/shapes'
import type { Vec3 } from '#core/math/vec3'
import { TEXTURE_RECIPES } from './materials'
import type { Finish, ModelRecipe } from './model-file'
import { lch } from './texture-set'

/** The demo world's furniture and objects: metres, base at the origin, parts with names. */

const recipe = (stem: string) => TEXTURE_RECIPES.find(r => r.stem === stem)
const textured = (name: string, stem: string): Finish => ({ name, color: [1, 1, 1], roughness: 0.5, recipe: recipe(stem) })
const flat = (name: string, color: Vec3, roughness: number, more: Partial<Finish> = {}): Finish => ({
  name,
  color,
  roughness,
  ...more,
})

const OAK = textured('Oak, oiled', 'Oak_Plank_Natural')
const WALNUT = textured('Walnut', 'Walnut_Board_Oiled')
const BIRCH = textured('Birch plywood', 'Birch_Plywood_Face')
const LINEN = textured('Linen, flax', 'Linen_Weave_Flax')
const TEAL_WOOL = textured('Wool twill, teal', 'Wool_Twill_Deep_Teal')
const BLACK_STEEL = flat('Powder-coated steel', [0.028, 0.029, 0.031], 0.45)
const STEEL = flat('Stainless steel', [0.56, 0.55, 0.53], 0.28, { metalness: 1 })
const BRASS = flat('Brass, satin', [0.86, 0.65, 0.33], 0.26, { metalness: 1 })
const RED_ENAMEL = flat('Enamel, signal red', lch(0.48, 0.17, 28), 0.08)
const CREAM_ENAMEL = flat('Enamel, cream', lch(0.9, 0.035, 92), 0.1)
const BLUE_ENAMEL = flat('Enamel, harbour blue', lch(0.42, 0.075, 245), 0.08)
const RUBBER = flat('Rubber', [0.02, 0.02, 0.02], 0.8)
const PAPER = flat('Book covers', lch(0.55, 0.06, 40), 0.7)

const at = (mesh: Mesh, x: number, y: number, z: number, yaw = 0): Mesh => placeMesh(mesh, [x, y, z], yaw)
const rod = (from: Vec3, to: Vec3, radius: number, segments = 14): Mesh =>
  createTube([from, from, to, to], [0.0001, radius, radius, 0.0001], segments)
const legs = (x: number, z: number, height: number, splay: number, radius: number): Mesh =>
  mergeMeshes(
    [
      [-1, -1],
      [1, -1],
      [-1, 1],
      [1, 1],
    ].map(([sx, sz]) => rod([sx * (x + splay), 0, sz * (z + splay)], [sx * x, height, sz * z], radius)),
  )
/** A soft cushion: a box with generous rounding. */
const cushion = (w: number, h: number, d: number): Mesh => createBox(w, h, d, Math.min(w, h, d) * 0.38)

function curve(points: readonly Vec3[], steps: number): Vec3[] {
  // Catmull–Rom through the points.
  const out: Vec3[] = []
  for (let i = 0; i + 1 < points.length; i++) {
    const p = [points[Math.max(0, i - 1)], points[i], points[i + 1], points[Math.min(points.length - 1, i + 2)]]
    for (let k = 0; k < steps; k++) {
      const t = k / steps
      out.push(
        [0, 1, 2].map(
          c =>
            0.5 *
            (2 * p[1][c] +
              (p[2][c] - p[0][c]) * t +
              (2 * p[0][c] - 5 * p[1][c] + 4 * p[2][c] - p[3][c]) * t * t +
              (3 * p[1][c] - p[0][c] - 3 * p[2][c] + p[3][c]) * t * t * t),
        ) as Vec3,
      )
    }
  }
  out.push(points[points.length - 1])
  return out
}

function slatChair(): ModelRecipe['parts'] {
  const slats = Array.from({ length: 5 }, (_, i) => {
    const y = 0.53 + i * 0.068
    return at(createBox(0.4, 0.042, 0.016, 0.006), 0, y, -0.19 - i * 0.011)
  })
  return [
    { name: 'seat', mesh: at(createBox(0.44, 0.028, 0.42, 0.012), 0, 0.43, 0.01), finish: OAK },
    { name: 'legs', mesh: legs(0.18, 0.16, 0.435, 0.022, 0.016), finish: OAK },
    {
      name: 'back posts',
      mesh: mergeMeshes([-1, 1].map(s => rod([s * 0.185, 0.42, -0.17], [s * 0.195, 0.86, -0.25], 0.014))),
      finish: OAK,
    },
    { name: 'back slats', mesh: mergeMeshes(slats), finish: OAK },
    {
      name: 'stretchers',
      mesh: mergeMeshes([-1, 1].map(s => rod([s * 0.195, 0.2, -0.17], [s * 0.195, 0.2, 0.17], 0.009))),
      finish: OAK,
    },
  ]
}

function stool(): ModelRecipe['parts'] {
  const seat = createLathe(
    roundCorners(
      [
        [0.001, 0],
        [0.15, 0],
        [0.175, 0.035],
        [0.001, 0.03],
      ],
      0.012,
    ),
    56,
  )
  const ring = Array.from(
    { length: 41 },
    (_, i): Vec3 => [0.148 * Math.cos((i / 40) * 6.2832), 0.2, 0.148 * Math.sin((i / 40) * 6.2832)],
  )
  return [
    { name: 'seat', mesh: at(seat, 0, 0.62, 0), finish: WALNUT },
    { name: 'legs', mesh: legs(0.085, 0.085, 0.63, 0.05, 0.013), finish: BLACK_STEEL },
    { name: 'foot ring', mesh: createTube(ring, 0.008, 10), finish: BRASS },
  ]
}

function waitingBench(): ModelRecipe['parts'] {
  const slats = Array.from({ length: 7 }, (_, i) => at(createBox(2.1, 0.03, 0.056, 0.008), 0, 0.42, -0.19 + i * 0.064))
  const back = Array.from({ length: 4 }, (_, i) => at(createBox(2.1, 0.06, 0.026, 0.008), 0, 0.52 + i * 0.084, -0.24 - i * 0.022))
  const frame = (x: number): Mesh => {
    const outline: Point2[] = roundCorners(
      [
        [0.24, 0],
        [0.24, 0.4],
        [-0.2, 0.4],
        [-0.31, 0.86],
        [-0.345, 0.855],
        [-0.25, 0.38],
        [-0.26, 0],
        [-0.215, 0],
        [-0.205, 0.355],
        [0.195, 0.355],
        [0.195, 0],
      ],
      0.02,
      4,
      true,
    )
    return at(createExtrusion(outline, 0.04), x, 0, 0)
  }
  return [
    { name: 'seat slats', mesh: mergeMeshes(slats), finish: OAK },
    { name: 'back slats', mesh: mergeMeshes(back), finish: OAK },
    { name: 'frames', mesh: mergeMeshes([-0.85, 0, 0.85].map(frame)), finish: BLACK_STEEL },
  ]
}

function loungeSofa(): ModelRecipe['parts'] {
  return [
    { name: 'base', mesh: at(createBox(1.9, 0.16, 0.82, 0.03), 0, 0.14, 0), finish: TEAL_WOOL },
    {
      name: 'seat cushions',
      mesh: mergeMeshes([-0.46, 0.46].map(x => at(cushion(0.9, 0.17, 0.72), x, 0.29, 0.05))),
      finish: TEAL_WOOL,
    },
    {
      name: 'back cushions',
      mesh: mergeMeshes([-0.46, 0.46].map(x => at(cushion(0.9, 0.4, 0.2), x, 0.42, -0.28))),
      finish: TEAL_WOOL,
    },
    {
      name: 'arms',
      mesh: mergeMeshes([-1, 1].map(s => at(createBox(0.14, 0.44, 0.82, 0.05), s * 1.02, 0.14, 0))),
      finish: TEAL_WOOL,
    },
    {
      name: 'bolsters',
      mesh: mergeMeshes([
        at(cushion(0.44, 0.3, 0.14), -0.68, 0.46, -0.1, 0.3),
        at(cushion(0.44, 0.3, 0.14), 0.7, 0.46, -0.1, -0.25),
      ]),
      finish: LINEN,
    },
    { name: 'feet', mesh: legs(0.86, 0.32, 0.15, 0.02, 0.018), finish: WALNUT },
  ]
}

function readingTable(): ModelRecipe['parts'] {
  const trestle = (x: number): Mesh =>
    mergeMeshes([
      rod([x - 0.02, 0, -0.34], [x, 0.7, -0.1], 0.022),
      rod([x - 0.02, 0, 0.34], [x, 0.7, 0.1], 0.022),
      at(createBox(0.06, 0.04, 0.62, 0.008), x, 0.69, 0),
    ])
  return [
    { name: 'top', mesh: at(createBox(2.4, 0.032, 0.92, 0.01), 0, 0.73, 0), finish: OAK },
    { name: 'trestles', mesh: mergeMeshes([-0.85, 0.85].map(trestle)), finish: OAK },
    { name: 'beam', mesh: at(createBox(1.7, 0.06, 0.03, 0.006), 0, 0.45, 0), finish: OAK },
    { name: 'cable tray', mesh: at(createBox(1.4, 0.05, 0.14, 0.006), 0, 0.655, 0), finish: BLACK_STEEL },
  ]
}

function sideTable(): ModelRecipe['parts'] {
  return [
    {
      name: 'top',
      mesh: at(
        createLathe(
          roundCorners(
            [
              [0.001, 0],
              [0.235, 0],
              [0.24, 0.018],
              [0.001, 0.018],
            ],
            0.007,
          ),
          64,
        ),
        0,
        0.482,
        0,
      ),
      finish: textured('Terrazzo, grey', 'Terrazzo_Harbour_Grey'),
    },
    {
      name: 'stem',
      mesh: createLathe(
        roundCorners(
          [
            [0.001, 0.01],
            [0.024, 0.01],
            [0.017, 0.25],
            [0.03, 0.482],
            [0.001, 0.482],
          ],
          0.02,
        ),
        32,
      ),
      finish: BRASS,
    },
    {
      name: 'foot',
      mesh: createLathe(
        roundCorners(
          [
            [0.001, 0],
            [0.15, 0],
            [0.152, 0.008],
            [0.03, 0.022],
            [0.001, 0.022],
          ],
          0.006,
        ),
        56,
      ),
      finish: BRASS,
    },
  ]
}

function bookcase(): ModelRecipe['parts'] {
  const shelves = Array.from({ length: 6 }, (_, i) => at(createBox(1.16, 0.022, 0.3, 0.002), 0, 0.06 + i * 0.36, 0))
  const books: Mesh[] = []
  const pale: Mesh[] = []
  for (let shelf = 0; shelf < 5; shelf++) {
    let x = -0.55
    for (let k = 0; x < (shelf % 2 ? 0.2 : 0.42); k++) {
      const thick = 0.016 + ((k * 37 + shelf * 11) % 17) / 600
      const tall = 0.2 + ((k * 53 + shelf * 29) % 23) / 230
      const book = at(createBox(thick, tall, 0.17 + (k % 3) * 0.02, 0.002), x + thick / 2, 0.082 + shelf * 0.36, 0.02)
      ;(k % 3 === 0 ? pale : books).push(book)
      x += thick + 0.001
    }
  }
  return [
    { name: 'shelves', mesh: mergeMeshes(shelves), finish: BIRCH },
    {
      name: 'sides',
      mesh: mergeMeshes([-1, 1].map(s => at(createBox(0.024, 1.94, 0.3, 0.002), s * 0.592, 0, 0))),
      finish: BIRCH,
    },
    { name: 'back', mesh: at(createBox(1.16, 1.86, 0.008), 0, 0.06, -0.145), finish: BIRCH },
    { name: 'books', mesh: mergeMeshes(books), finish: PAPER },
    { name: 'books, pale', mesh: mergeMeshes(pale), finish: flat('Book covers, pale', lch(0.8, 0.03, 90), 0.7) },
  ]
}

function bookTrolley(): ModelRecipe['parts'] {
  const tray = (y: number): Mesh =>
    mergeMeshes([
      at(createBox(0.72, 0.014, 0.36, 0.004), 0, y, 0),
      ...[-1, 1].map(s => at(createBox(0.72, 0.07, 0.012, 0.004), 0, y, s * 0.174)),
    ])
  const wheel = createExtrusion(
    Array.from(
      { length: 24 },
      (_, i): Point2 => [0.045 * Math.cos((i / 24) * 6.2832), 0.045 + 0.045 * Math.sin((i / 24) * 6.2832)],
    ),
    0.024,
  )
  return [
    { name: 'trays', mesh: mergeMeshes([0.2, 0.52, 0.84].map(tray)), finish: BLUE_ENAMEL },
    {
      name: 'posts',
      mesh: mergeMeshes(
        [
          [-1, -1],
          [1, -1],
          [-1, 1],
          [1, 1],
        ].map(([a, b]) => rod([a * 0.345, 0.09, b * 0.165], [a * 0.345, 0.92, b * 0.165], 0.011)),
      ),
      finish: STEEL,
    },
    {
      name: 'wheels',
      mesh: mergeMeshes(
        [
          [-1, -1],
          [1, -1],
          [-1, 1],
          [1, 1],
        ].map(([a, b]) => at(wheel, a * 0.345, 0, b * 0.165)),
      ),
      finish: RUBBER,
    },
  ]
}

function pendant(): ModelRecipe['parts'] {
  const shade: Point2[] = [
    [0.03, 0.24],
    [0.045, 0.2],
    [0.1, 0.15],
    [0.19, 0.05],
    [0.2, 0],
    [0.196, 0],
    [0.186, 0.048],
    [0.097, 0.146],
    [0.042, 0.195],
    [0.028, 0.236],
  ]
  // The profile runs down the outside and up the inside; the lathe wants it the other way.
  return [
    { name: 'shade', mesh: createLathe(roundCorners([...shade].reverse(), 0.02, 6), 64), finish: CREAM_ENAMEL },
    {
      name: 'cap',
      mesh: at(
        createLathe(
          roundCorners(
            [
              [0.001, 0],
              [0.034, 0],
              [0.03, 0.06],
              [0.006, 0.075],
              [0.001, 0.075],
            ],
            0.01,
          ),
          32,
        ),
        0,
        0.225,
        0,
      ),
      finish: BRASS,
    },
    { name: 'cable', mesh: rod([0, 0.29, 0], [0, 0.85, 0], 0.003, 8), finish: RUBBER },
    {
      name: 'bulb',
      mesh: createSphere(0.045, [0, 0.09, 0], 32),
      finish: flat('Opal bulb', [0.9, 0.88, 0.84], 0.3, { emission: [1, 0.86, 0.66] }),
    },
  ]
}

function deskLamp(): ModelRecipe['parts'] {
  const arm = curve(
    [
      [0, 0.02, 0],
      [0, 0.3, -0.03],
      [0.02, 0.44, 0.02],
      [0.12, 0.5, 0.1],
      [0.2, 0.47, 0.16],
    ],
    8,
  )
  return [
    {
      name: 'base',
      mesh: createLathe(
        roundCorners(
          [
            [0.001, 0],
            [0.09, 0],
            [0.092, 0.014],
            [0.02, 0.03],
            [0.001, 0.03],
          ],
          0.01,
        ),
        56,
      ),
      finish: BLACK_STEEL,
    },
    { name: 'arm', mesh: createTube(arm, 0.0065, 12), finish: BRASS },
    {
      name: 'shade',
      mesh: at(
        createLathe(
          roundCorners(
            [
              [0.066, 0],
              [0.05, 0.045],
              [0.022, 0.075],
              [0.02, 0.078],
              [0.026, 0.082],
              [0.056, 0.05],
              [0.07, 0],
            ].reverse() as Point2[],
            0.008,
          ),
          48,
        ),
        0.2,
        0.405,
        0.16,
      ),
      finish: BLACK_STEEL,
    },
    {
      name: 'bulb',
      mesh: createSphere(0.028, [0.2, 0.44, 0.16], 24),
      finish: flat('Opal bulb', [0.9, 0.88, 0.84], 0.3, { emission: [1, 0.82, 0.6] }),
    },
  ]
}

function kettle(body: Finish, tall: boolean): ModelRecipe['parts'] {
  const h = tall ? 0.2 : 0.15
  const r = tall ? 0.075 : 0.1
  const wall: Point2[] = roundCorners(
    [
      [0.001, 0],
      [r * 0.92, 0],
      [r, h * 0.28],
      [r * 0.86, h * 0.75],
      [r * 0.5, h],
      [0.001, h],
    ],
    r * 0.3,
    10,
  )
  const spout = tall
    ? curve(
        [
          [r * 0.85, 0.045, 0],
          [r * 1.5, 0.07, 0],
          [r * 1.55, 0.13, 0],
          [r * 1.8, h * 0.95, 0],
          [r * 2.2, h * 0.99, 0],
        ],
        8,
      )
    : curve(
        [
          [r * 0.8, h * 0.4, 0],
          [r * 1.25, h * 0.58, 0],
          [r * 1.5, h * 0.9, 0],
        ],
        8,
      )
  const spoutRadii = spout.map((_, i) => (tall ? 0.009 : 0.022) * (1.25 - 0.55 * (i / (spout.length - 1))))
  const handle = tall
    ? curve(
        [
          [-r * 0.8, h * 0.82, 0],
          [-r * 1.7, h * 0.86, 0],
          [-r * 1.75, h * 0.4, 0],
          [-r * 0.98, h * 0.26, 0],
        ],
        8,
      )
    : curve(
        [
          [-r * 0.72, h * 0.8, 0],
          [-r * 0.8, h * 1.5, 0],
          [0, h * 1.85, 0],
          [r * 0.8, h * 1.5, 0],
          [r * 0.72, h * 0.8, 0],
        ],
        10,
      )
  const lid = createLathe(
    roundCorners(
      [
        [0.001, 0],
        [r * 0.54, 0],
        [r * 0.52, 0.008],
        [r * 0.15, 0.018],
        [0.001, 0.02],
      ],
      0.006,
    ),
    48,
  )
  return [
    { name: 'body', mesh: createLathe(wall, 72), finish: body },
    { name: 'spout', mesh: createTube(spout, spoutRadii, 20), finish: body },
    { name: 'lid', mesh: at(lid, 0, h - 0.003, 0), finish: body },
    {
      name: 'rim',
      mesh: at(
        createLathe(
          roundCorners(
            [
              [r * 0.93, 0],
              [r * 0.945, 0],
              [r * 0.945, 0.006],
              [r * 0.93, 0.006],
            ],
            0.002,
          ),
          64,
        ),
        0,
        0.002,
        0,
      ),
      finish: STEEL,
    },
    { name: 'knob', mesh: createSphere(0.013, [0, h + 0.028, 0], 28), finish: WALNUT },
    { name: 'handle', mesh: createTube(handle, tall ? 0.008 : 0.0075, 14), finish: tall ? WALNUT : STEEL },
  ]
}

function railing(): ModelRecipe['parts'] {
  const posts = Array.from({ length: 4 }, (_, i) => at(createBox(0.05, 1.06, 0.012, 0.002), -1.5 + i, 0, 0))
  const plates = Array.from({ length: 4 }, (_, i) => at(createBox(0.12, 0.01, 0.12, 0.002), -1.5 + i, 0, 0))
  const wires = Array.from({ length: 7 }, (_, i) => rod([-1.5, 0.14 + i * 0.125, 0], [1.5, 0.14 + i * 0.125, 0], 0.004, 8))
  return [
    { name: 'posts', mesh: mergeMeshes([...posts, ...plates]), finish: BLACK_STEEL },
    { name: 'wires', mesh: mergeMeshes(wires), finish: STEEL },
    { name: 'handrail', mesh: at(createBox(3.1, 0.045, 0.075, 0.018), 0, 1.06, 0), finish: OAK },
  ]
}

function figure(): ModelRecipe['parts'] {
  const clay = flat('Figure, warm grey', lch(0.62, 0.012, 60), 0.75)
  const dark = flat('Figure, coat', lch(0.36, 0.03, 240), 0.8)
  const limb = (points: Vec3[], radii: number[]): Mesh => createTube(curve(points, 6), spread(radii, 6), 16)
  return [
    { name: 'head', mesh: placeMesh(createSphere(0.105, [0, 0, 0], 36), [0, 1.635, 0.01], 0, [0.78, 1.1, 0.92]), finish: clay },
    {
      name: 'neck',
      mesh: limb(
        [
          [0, 1.4, -0.01],
          [0, 1.46, 0],
          [0, 1.55, 0.005],
        ],
        [0.06, 0.052, 0.05],
      ),
      finish: clay,
    },
    {
      name: 'coat',
      mesh: placeMesh(
        createLathe(
          roundCorners(
            [
              [0.001, 0.72],
              [0.235, 0.72],
              [0.2, 1.0],
              [0.215, 1.28],
              [0.17, 1.42],
              [0.06, 1.47],
              [0.001, 1.47],
            ],
            0.08,
            8,
          ),
          40,
        ),
        [0, 0, 0],
        0,
        [1, 1, 0.62],
      ),
      finish: dark,
    },
    {
      name: 'arms',
      mesh: mergeMeshes(
        [-1, 1].map(s =>
          limb(
            [
              [s * 0.19, 1.38, 0],
              [s * 0.255, 1.2, -0.01],
              [s * 0.275, 1.02, 0.02],
              [s * 0.265, 0.82, 0.08],
            ],
            [0.065, 0.058, 0.046, 0.036],
          ),
        ),
      ),
      finish: dark,
    },
    {
      name: 'hands',
      mesh: mergeMeshes(
        [-1, 1].map(s => placeMesh(createSphere(0.042, [0, 0, 0], 20), [s * 0.264, 0.77, 0.095], 0, [0.7, 1.2, 0.9])),
      ),
      finish: clay,
    },
    {
      name: 'legs',
      mesh: mergeMeshes(
        [-1, 1].map(s =>
          limb(
            [
              [s * 0.1, 0.8, 0],
              [s * 0.105, 0.5, 0.012],
              [s * 0.11, 0.3, -0.005],
              [s * 0.115, 0.06, -0.01],
            ],
            [0.095, 0.075, 0.062, 0.05],
          ),
        ),
      ),
      finish: clay,
    },
    {
      name: 'shoes',
      mesh: mergeMeshes([-1, 1].map(s => at(createBox(0.1, 0.075, 0.26, 0.035), s * 0.118, 0, 0.045, s * 0.12))),
      finish: RUBBER,
    },
  ]
}

function spread(radii: readonly number[], steps: number): number[] {
  const out: number[] = []
  for (let i = 0; i + 1 < radii.length; i++)
    for (let k = 0; k < steps; k++) out.push(radii[i] + ((radii[i + 1] - radii[i]) * k) / steps)
  out.push(radii[radii.length - 1])
  return out
}

const ODD = 'Oddmere Surfaces/Furniture'
const KETTLES = 'Kettle range'

export const MODEL_RECIPES: readonly { folder: string; stem: string; build: () => ModelRecipe['parts'] }[] = [
  { folder: `${ODD}/Seating`, stem: 'Slat_Back_Chair', build: slatChair },
  { folder: `${ODD}/Seating`, stem: 'Counter_Stool', build: stool },
  { folder: `${ODD}/Seating`, stem: 'Waiting_Bench_Three', build: waitingBench },
  { folder: `${ODD}/Seating`, stem: 'Lounge_Sofa_Two', build: loungeSofa },
  { folder: `${ODD}/Tables`, stem: 'Reading_Table_Long', build: readingTable },
  { folder: `${ODD}/Tables`, stem: 'Side_Table_Terrazzo', build: sideTable },
  { folder: `${ODD}/Storage`, stem: 'Bookcase_Birch_Shelving', build: bookcase },
  { folder: `${ODD}/Storage`, stem: 'Book_Trolley', build: bookTrolley },
  { folder: `${ODD}/Lighting`, stem: 'Pendant_Lamp_Enamel', build: pendant },
  { folder: `${ODD}/Lighting`, stem: 'Desk_Lamp_Brass', build: deskLamp },
  { folder: `${ODD}/Building`, stem: 'Quay_Railing_Wire', build: railing },
  { folder: `${ODD}/Figures`, stem: 'Standing_Figure', build: figure },
  { folder: KETTLES, stem: 'Kettle_Round_Red', build: () => kettle(RED_ENAMEL, false) },
  { folder: KETTLES, stem: 'Kettle_Tall_Blue', build: () => kettle(BLUE_ENAMEL, true) },
]
