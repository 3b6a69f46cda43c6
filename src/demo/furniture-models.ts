import { type Mesh, mergeMeshes } from '#core/geometry/mesh'
import { createBox, createExtrusion, createLathe, createTube, type Point2, roundCorners } from '#core/geometry/shapes'
import type { Vec3 } from '#core/math/vec3'
import {
  BIRCH,
  BLACK_STEEL,
  BLUE_ENAMEL,
  BRASS,
  flat,
  LINEN,
  OAK,
  PAPER,
  RUBBER,
  STEEL,
  TEAL_WOOL,
  textured,
  WALNUT,
} from './finishes'
import type { ModelRecipe } from './model-file'
import { at, cushion, legs, rod } from './model-shapes'
import { lch } from './texture-set'

/** Seats, tables and shelving: metres, base at the origin, parts with names. */

export function slatChair(): ModelRecipe['parts'] {
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

export function stool(): ModelRecipe['parts'] {
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

export function waitingBench(): ModelRecipe['parts'] {
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

export function loungeSofa(): ModelRecipe['parts'] {
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

export function readingTable(): ModelRecipe['parts'] {
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

export function sideTable(): ModelRecipe['parts'] {
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

export function bookcase(): ModelRecipe['parts'] {
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

export function bookTrolley(): ModelRecipe['parts'] {
  const tray = (y: number): Mesh =>
    mergeMeshes([
      at(createBox(0.712, 0.014, 0.352, 0.004), 0, y, 0),
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
