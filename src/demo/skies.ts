import { columnAzimuth, directionOf, rowElevation } from '#core/environment/sphere'
import { createFloatImage, type FloatImage } from '#core/image/image'
import { toRadians } from '#core/math/angles'
import { dot, type Vec3 } from '#core/math/vec3'
import { lch, mixColor } from './texture-set'
import { ramp, random, tileCells, tileFbm } from './tile-noise'

/** Analytic environments: every sun stands where it is said to stand. Radiance in arbitrary but consistent units. */

export interface SkyRecipe {
  folder: string
  stem: string
  format: 'exr' | 'hdr'
  widthPx: number
  /** The truth, for tests: where the sun is, or null when none is visible. */
  sun: { azimuthDeg: number; elevationDeg: number } | null
  radiance: (direction: Vec3, azimuth: number, elevation: number) => Vec3
}

export function makeSky(recipe: SkyRecipe, widthPx = recipe.widthPx): FloatImage {
  const height = widthPx / 2
  const map = createFloatImage(widthPx, height, 3)
  for (let j = 0; j < height; j++) {
    const elevation = rowElevation(j, height)
    for (let i = 0; i < widthPx; i++) {
      const azimuth = columnAzimuth(i, widthPx)
      map.data.set(recipe.radiance(directionOf(azimuth, elevation), azimuth, elevation), (j * widthPx + i) * 3)
    }
  }
  if (recipe.sun) addSun(map, recipe)
  return map
}

/** The disc's radiance follows from the share of light a sun of that height has; its edge is antialiased by area. */
function addSun(map: FloatImage, recipe: SkyRecipe): void {
  const { azimuthDeg, elevationDeg } = recipe.sun!
  const centre = directionOf(toRadians(azimuthDeg), toRadians(elevationDeg))
  const radius = toRadians(0.53 / 2)
  const [color, strength] = SUN_LIGHT[recipe.stem] ?? [[1, 0.95, 0.88], 60000]
  const height = map.width / 2
  const reach = radius + (2 * Math.PI) / map.width
  const steps = 6
  for (let j = 0; j < height; j++) {
    if (Math.abs(rowElevation(j, height) - toRadians(elevationDeg)) > reach * 1.5) continue
    for (let i = 0; i < map.width; i++) {
      let covered = 0
      for (let a = 0; a < steps; a++)
        for (let b = 0; b < steps; b++) {
          const az = columnAzimuth(i + (a + 0.5) / steps - 0.5, map.width)
          const el = Math.PI / 2 - (Math.PI * (j + (b + 0.5) / steps)) / height
          if (dot(directionOf(az, el), centre) > Math.cos(radius)) covered++
        }
      if (covered === 0) continue
      for (let c = 0; c < 3; c++) map.data[(j * map.width + i) * 3 + c] += (color[c] * strength * covered) / steps ** 2
    }
  }
}

/** Colour and radiance of the disc against a sky of about 1. */
const SUN_LIGHT: Record<string, [Vec3, number]> = {
  Clear_Noon_Lake: [[1, 0.95, 0.88], 62000],
  Low_Sun_Morning: [[1, 0.66, 0.36], 15000],
  Broken_Cloud_Afternoon: [[1, 0.93, 0.84], 50000],
}

const add3 = (a: Vec3, b: Vec3, k = 1): Vec3 => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k]
const times = (a: Vec3, k: number): Vec3 => [a[0] * k, a[1] * k, a[2] * k]

/** Low hills and a far shore: elevation of the skyline in radians. */
const skyline = (azimuth: number, seed: number, heightDeg: number): number => {
  const u = azimuth / (2 * Math.PI) + 0.5
  return toRadians(heightDeg * (0.25 + 0.9 * tileFbm(seed, u, 0.3, 7, 3, 5) ** 1.6))
}

interface Land {
  seed: number
  hillsDeg: number
  /** Share of light it sends back. */
  hills: Vec3
  near: Vec3
  water: boolean
}

/** Hills, then water that mirrors the sky above or a gravelly ground, darker towards the feet. */
function withLand(sky: (d: Vec3, azimuth: number, elevation: number) => Vec3, land: Land, light: number) {
  return (d: Vec3, azimuth: number, elevation: number): Vec3 => {
    const line = skyline(azimuth, land.seed, land.hillsDeg)
    const u = azimuth / (2 * Math.PI) + 0.5
    if (elevation > line) return sky(d, azimuth, elevation)
    if (elevation > 0) {
      const wood = 0.7 + 0.6 * tileFbm(land.seed + 3, u, elevation * 4, 160, 24, 3)
      const haze = ramp(0.12, 0, line) * 0.5
      return mixColor(times(land.hills, light * wood), sky(d, azimuth, line + 0.01), haze)
    }
    const distance = Math.min(400, 1.6 / Math.tan(Math.max(-elevation, 0.004)))
    const x = distance * Math.sin(azimuth)
    const z = distance * Math.cos(azimuth)
    if (land.water && distance > 9) {
      const ripple = (tileFbm(land.seed + 5, x / 40, z / 40, 60, 60, 3) - 0.5) * 0.05
      const up = Math.max(0.012, -elevation + ripple)
      const mirror = sky(directionOf(azimuth, up), azimuth, up)
      const fresnel = 0.02 + 0.98 * (1 - Math.sin(Math.max(up, 0.02))) ** 5
      return add3(times(mirror, fresnel), [0.012, 0.03, 0.032], light)
    }
    const stones = tileCells(land.seed + 7, x / 12, z / 12, 60)
    const k = light * (0.55 + 0.5 * stones.id) * (0.5 + 0.5 * ramp(0, 0.25, stones.second - stones.nearest))
    return times(land.near, k * (0.8 + 0.4 * tileFbm(land.seed + 9, x / 30, z / 30, 40, 40, 3)))
  }
}

/** Blue deepening upwards, paler at the horizon, with a glow round the sun. */
function clearSky(sun: { azimuthDeg: number; elevationDeg: number }, turbidity: number, warm: Vec3) {
  const s = directionOf(toRadians(sun.azimuthDeg), toRadians(sun.elevationDeg))
  const low = ramp(25, 2, sun.elevationDeg)
  return (d: Vec3, _azimuth: number, elevation: number): Vec3 => {
    const h = Math.max(0, Math.sin(elevation))
    const depth = Math.exp(-h * 3.2)
    const zenith: Vec3 = [0.16, 0.34, 0.86]
    const horizon = mixColor([0.72, 0.86, 1.05], warm, low * 0.75)
    let c = mixColor(zenith, horizon, depth ** (1.1 / turbidity))
    c = times(c, 1 - 0.45 * low * (1 - depth))
    const cosine = dot(d, s)
    const angle = Math.acos(Math.min(1, cosine))
    const rayleigh = 0.75 * (1 + cosine * cosine)
    const glow = Math.exp(-angle * 14) * 5 + Math.exp(-angle * 4) * 0.9
    return add3(times(c, 0.5 + 0.5 * rayleigh), mixColor([1, 0.96, 0.9], warm, low), glow * turbidity * 0.6)
  }
}

function cloudy(sky: ReturnType<typeof clearSky>, sun: Vec3, seed: number, cover: number) {
  return (d: Vec3, azimuth: number, elevation: number): Vec3 => {
    const base = sky(d, azimuth, elevation)
    if (elevation < 0.01) return base
    // A flat layer overhead: noise over where the ray meets it, finer towards the horizon.
    const reach = 1 / (Math.sin(elevation) + 0.12)
    const x = d[0] * reach * 0.11 + 0.5
    const z = d[2] * reach * 0.11 + 0.5
    const n = tileFbm(seed, x, z, 7, 7, 6, 0.52)
    const body = ramp(1 - cover - 0.05, 1 - cover + 0.13, n)
    const thick = ramp(1 - cover, 1, n)
    const facing = Math.max(0, dot(d, sun))
    const edge = 1.5 + 1.3 * facing ** 6
    const cloud = mixColor([edge, edge * 0.99, edge * 0.97], [0.5, 0.54, 0.6], thick)
    return mixColor(base, cloud, body * ramp(0.005, 0.1, elevation))
  }
}

const LAKESIDE: Land = { seed: 301, hillsDeg: 7, hills: [0.07, 0.1, 0.06], near: [0.32, 0.29, 0.25], water: true }
const MEADOW: Land = { seed: 311, hillsDeg: 5, hills: [0.08, 0.11, 0.05], near: [0.16, 0.2, 0.07], water: false }
const QUAY: Land = { seed: 321, hillsDeg: 6, hills: [0.05, 0.06, 0.07], near: [0.27, 0.26, 0.25], water: true }

const overcast = (_d: Vec3, azimuth: number, elevation: number): Vec3 => {
  // CIE standard overcast: three times as bright overhead as at the horizon.
  const u = azimuth / (2 * Math.PI) + 0.5
  const billow = 0.86 + 0.28 * tileFbm(411, u, 0.5 + elevation / 4, 6, 5, 5)
  const k = ((1 + 2 * Math.max(0, Math.sin(elevation))) / 3) * billow
  return [1.02 * k, 1.06 * k, 1.14 * k]
}

const dusk = (d: Vec3, _azimuth: number, elevation: number): Vec3 => {
  const west = directionOf(toRadians(-65), 0)
  const toWest = (dot(d, west) + 1) / 2
  const h = Math.max(0, Math.sin(elevation))
  const glow = Math.exp(-h * 7) * toWest ** 3
  const mid = Math.exp(-h * 3) * toWest
  return add3(add3([0.025, 0.045, 0.12], [0.22, 0.2, 0.34], mid), [1.9, 0.75, 0.28], glow)
}

const NIGHT_LAMPS = Array.from({ length: 9 }, (_, i) => ({
  direction: directionOf(toRadians(-150 + i * 37 + random(5, i) * 12), toRadians(3 + random(6, i) * 9)),
  radius: toRadians(0.5 + random(7, i) * 0.4),
  color: (i % 3 === 0 ? [1, 0.86, 0.66] : [1, 0.72, 0.42]) as Vec3,
}))

function night(d: Vec3, azimuth: number, elevation: number): Vec3 {
  const u = azimuth / (2 * Math.PI) + 0.5
  const star = elevation > 0.1 ? tileCells(511, u, 0.5 + elevation / Math.PI, 240) : null
  const twinkle = star && star.id > 0.985 && star.nearest < 0.09 ? 0.25 : 0
  let c: Vec3 = [0.0035 + twinkle, 0.005 + twinkle, 0.011 + twinkle]
  c = add3(c, [0.03, 0.018, 0.008], Math.exp(-Math.max(0, elevation) * 9))
  for (const lamp of NIGHT_LAMPS) {
    const cosine = dot(d, lamp.direction)
    // Past half a radian a lamp's halo is below the sky itself.
    if (cosine < 0.88) continue
    const angle = Math.acos(Math.min(1, cosine))
    if (angle < lamp.radius) c = add3(c, lamp.color, 110)
    else c = add3(c, lamp.color, 0.5 * Math.exp(-(angle - lamp.radius) * 26))
  }
  return c
}

/** A room of 11 x 3.6 x 8 m with tall windows on one side, seen from 1.6 m. First bounce by patches, the rest as a constant. */
function readingRoom(d: Vec3): Vec3 {
  const low: Vec3 = [-5.5, -1.6, -4]
  const high: Vec3 = [5.5, 2, 4]
  let t = Infinity
  let axis = 0
  for (let c = 0; c < 3; c++) {
    const limit = d[c] > 0 ? high[c] / d[c] : d[c] < 0 ? low[c] / d[c] : Infinity
    if (limit < t) {
      t = limit
      axis = c
    }
  }
  const p: Vec3 = [d[0] * t, d[1] * t, d[2] * t]
  const inWindow = (x: number, y: number) => WINDOWS.some(w => Math.abs(x - w) < 0.9 && y > -0.7 && y < 1.6)
  if (axis === 2 && p[2] < 0 && inWindow(p[0], p[1])) {
    const w = WINDOWS.find(x => Math.abs(p[0] - x) < 0.9)!
    const frame = Math.abs(p[0] - w) < 0.03 || Math.abs(p[1] - 0.5) < 0.03 || Math.abs(p[0] - w) > 0.86
    if (frame) return [0.5, 0.5, 0.5]
    return p[1] > -0.1 ? times([9, 10.4, 12.4], 0.7 + 0.3 * ramp(0, 1.6, p[1])) : [2.2, 3, 1.6]
  }
  let light = 0.5
  const normal: Vec3 = [0, 0, 0]
  normal[axis] = d[axis] > 0 ? -1 : 1
  for (const w of WINDOWS)
    for (const y of [-0.3, 0.4, 1.1]) {
      const to: Vec3 = [w - p[0], y - p[1], -4 - p[2]]
      const l2 = dot(to, to)
      const l = Math.sqrt(l2)
      light += ((Math.max(0, dot(to, normal)) / l) * Math.max(0, -to[2] / l) * 1.4 * 10) / (Math.PI * (l2 + 0.15))
    }
  const u = (a: number) => (((a % 6) + 6) % 6) / 6
  let albedo: Vec3 = [0.78, 0.76, 0.72]
  if (axis === 1 && p[1] < 0) {
    const board = tileFbm(61, u(p[0]), u(p[2]), 60, 4, 4)
    albedo = mixColor(lch(0.5, 0.06, 66), lch(0.7, 0.06, 76), board)
  } else if (axis === 0 && p[1] < 0.9) {
    // Shelves of books along the short walls.
    const shelf = Math.abs((((p[1] + 1.6) / 0.36) % 1) - 0.5) > 0.44
    const book = Math.floor((p[2] + 4) / 0.045)
    const row = Math.floor((p[1] + 1.6) / 0.36)
    albedo = shelf ? [0.42, 0.3, 0.18] : times(lch(0.35 + 0.4 * random(3, book, row), 0.07, 360 * random(4, book, row)), 0.7)
  }
  return times([albedo[0] * 0.98, albedo[1], albedo[2] * 1.02], light)
}
const WINDOWS = [-3.6, -1.2, 1.2, 3.6]

interface Box {
  azimuthDeg: number
  elevationDeg: number
  halfWidth: number
  halfHeight: number
  radiance: number
}

const SOFTBOXES: readonly Box[] = [
  { azimuthDeg: -48, elevationDeg: 32, halfWidth: 20, halfHeight: 28, radiance: 22 },
  { azimuthDeg: 62, elevationDeg: 18, halfWidth: 9, halfHeight: 34, radiance: 9 },
  { azimuthDeg: 170, elevationDeg: 42, halfWidth: 30, halfHeight: 8, radiance: 12 },
]

function studio(_d: Vec3, azimuth: number, elevation: number): Vec3 {
  let c: Vec3 = times([0.022, 0.022, 0.023], 1 + 0.6 * Math.sin(elevation))
  if (elevation < -0.25) c = times([0.05, 0.05, 0.05], 1 + ramp(-0.25, -1.2, elevation))
  for (const box of SOFTBOXES) {
    const dx = ((((azimuth * 180) / Math.PI - box.azimuthDeg + 540) % 360) - 180) / box.halfWidth
    const dy = ((elevation * 180) / Math.PI - box.elevationDeg) / box.halfHeight
    const inside = ramp(1.03, 0.97, Math.abs(dx)) * ramp(1.03, 0.97, Math.abs(dy))
    // Brighter in the middle, where the lamp is behind the cloth.
    c = add3(c, [1, 0.99, 0.97], inside * box.radiance * (0.72 + 0.28 * Math.exp(-2 * (dx * dx + dy * dy))))
  }
  return c
}

const ZEPH = 'Zephyrine Skies'
const noon = { azimuthDeg: -42, elevationDeg: 56 }
const morning = { azimuthDeg: 68, elevationDeg: 7.5 }
const afternoon = { azimuthDeg: 24, elevationDeg: 36 }

export const SKY_RECIPES: readonly SkyRecipe[] = [
  {
    folder: `${ZEPH}/Skies`,
    stem: 'Clear_Noon_Lake',
    format: 'exr',
    widthPx: 2048,
    sun: noon,
    radiance: withLand(clearSky(noon, 1, [1, 0.8, 0.55]), LAKESIDE, 1.6),
  },
  {
    folder: `${ZEPH}/Skies`,
    stem: 'Low_Sun_Morning',
    format: 'exr',
    widthPx: 2048,
    sun: morning,
    radiance: withLand(clearSky(morning, 1.35, [1.5, 0.72, 0.34]), MEADOW, 0.7),
  },
  {
    folder: `${ZEPH}/Skies`,
    stem: 'Broken_Cloud_Afternoon',
    format: 'exr',
    widthPx: 2048,
    sun: afternoon,
    radiance: withLand(
      cloudy(clearSky(afternoon, 1, [1, 0.8, 0.55]), directionOf(toRadians(24), toRadians(36)), 401, 0.5),
      LAKESIDE,
      1.3,
    ),
  },
  {
    folder: `${ZEPH}/Skies`,
    stem: 'Overcast_Soft_Sky',
    format: 'hdr',
    widthPx: 2048,
    sun: null,
    radiance: withLand(overcast, MEADOW, 0.75),
  },
  {
    folder: `${ZEPH}/Skies`,
    stem: 'Dusk_Harbour_Sky',
    format: 'exr',
    widthPx: 2048,
    sun: null,
    radiance: withLand(dusk, QUAY, 0.16),
  },
  {
    folder: `${ZEPH}/Skies`,
    stem: 'Night_Quay_Sky',
    format: 'exr',
    widthPx: 2048,
    sun: null,
    radiance: withLand(night, QUAY, 0.03),
  },
  { folder: `${ZEPH}/Interiors`, stem: 'Reading_Room_Windows', format: 'hdr', widthPx: 2048, sun: null, radiance: readingRoom },
  { folder: `${ZEPH}/Studio`, stem: 'Studio_Three_Softboxes', format: 'exr', widthPx: 2048, sun: null, radiance: studio },
]
