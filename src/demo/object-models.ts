import { type Mesh, mergeMeshes, placeMesh } from '#core/geometry/mesh'
import { createBox, createLathe, createSphere, createTube, type Point2, roundCorners } from '#core/geometry/shapes'
import type { Vec3 } from '#core/math/vec3'
import { BLACK_STEEL, BRASS, CREAM_ENAMEL, flat, OAK, RUBBER, STEEL, WALNUT } from './finishes'
import type { Finish, ModelRecipe } from './model-file'
import { at, curve, rod, spread } from './model-shapes'
import { lch } from './texture-set'

/** Lamps, kettles, a railing and a figure for scale. */

export function pendant(): ModelRecipe['parts'] {
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

export function deskLamp(): ModelRecipe['parts'] {
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

export function kettle(body: Finish, tall: boolean): ModelRecipe['parts'] {
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

export function railing(): ModelRecipe['parts'] {
  const posts = Array.from({ length: 4 }, (_, i) => at(createBox(0.05, 1.06, 0.012, 0.002), -1.5 + i, 0, 0))
  const plates = Array.from({ length: 4 }, (_, i) => at(createBox(0.12, 0.01, 0.12, 0.002), -1.5 + i, 0, 0))
  const wires = Array.from({ length: 7 }, (_, i) => rod([-1.5, 0.14 + i * 0.125, 0], [1.5, 0.14 + i * 0.125, 0], 0.004, 8))
  return [
    { name: 'posts', mesh: mergeMeshes([...posts, ...plates]), finish: BLACK_STEEL },
    { name: 'wires', mesh: mergeMeshes(wires), finish: STEEL },
    { name: 'handrail', mesh: at(createBox(3.1, 0.045, 0.075, 0.018), 0, 1.06, 0), finish: OAK },
  ]
}

export function figure(): ModelRecipe['parts'] {
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
