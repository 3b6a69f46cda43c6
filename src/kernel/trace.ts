import { angleOf, cosine as turnCosine, sine as turnSine, turnOf } from './angles'
import {
  drawnRadiance,
  bounceDensity,
  enterSpot,
  environmentRadiance,
  hasGuide,
  hasSpot,
  lightPdf,
  lightX,
  lightY,
  lightZ,
  sampleBounce,
  sampleEnvironment,
  seeEnvironment,
  setEnvironment,
  setGuide,
} from './environment'
import { tintThrough } from './clear'
import { gatheredB, gatheredG, gatheredR, gatherFour } from './first-light'
import { bend, buildFrame, bx, by, bz, leanTowards, nx, ny, nz, turn, tx, ty, tz } from './frame'
import {
  BASE,
  CLAMPED,
  EMISSION,
  FEATURE,
  FIRST_MATERIAL,
  LIGHT,
  Material,
  P,
  PLACED,
  RADIANCE,
  RAYS,
  SUMS,
  TEXEL,
  TINT_THROUGH,
  VALUE,
} from './memory'
import { filterOffset, hashCombine, pointX, pointY, sobolPair, sobolX } from './sampling'
import {
  blur,
  evaluate,
  isMirror,
  isPureMirror,
  keepsSide,
  letsThrough,
  ownColorShare,
  passesThrough,
  pdf,
  prepare,
  roughness,
  sample,
  setSurface,
  transmitted,
  wix,
  wiy,
  wiz,
} from './surface'
import { lampCount, lamps, MATERIAL_BYTES, materialOf, materials, normals, positions, uvDensity, uvs } from './scene'
import { lookUp, sizeOf } from './texture'
import { tintedRoot, closestHit, EVERYTHING, hitPlacement, isOccluded, Placement, RESULT, SOLID } from './traverse'

/** Paths from the camera, as core/render/integrator/path-tracer.ts has them: the same samples by the same numbers. */

const MAX_BOUNCES: i32 = 8
const ROULETTE_FROM: i32 = 2
/** At the first surface that is not so sharp a mirror that only what it reflects counts. */
const LIGHT_SAMPLES: i32 = 4
const SHARP_ROUGHNESS: f64 = 0.1
/** A mirror so sharp is met by its own directions alone. */
const PURE_ROUGHNESS: f64 = 0.05
const MIRROR_ROUGHNESS: f64 = 0.35
const BLURRED_ROUGHNESS: f64 = 0.4
const INDIRECT_LIMIT: f64 = 24
/** Where there is a guide, of lamps that give less by way of something diffuse only some are looked for. */
const LEAST_LAMP: f64 = 0.1
const CHANCE: u32 = 0x2c1b3c6d
/** How often the next direction is one that the guide knows light to come from. */
const LED: f64 = 0.5
const WHITE_NITS: f64 = 500

// The camera.
let cameraAt: usize = 0
let width: f64 = 1
let height: f64 = 1
let seed: u32 = 0
/** What is seen behind everything: the light itself, a colour, or another map. */
let background: i32 = 0
const COLOR = 1

/**
 * A view: position, forward, right and up of the camera, 3 each · tangent of half its height · aspect · background 3 · 0 for none, 1, 2 for a map ·
 * width · height in pixels · then seed and environment u32 · radius of the lens and distance to what is sharp · environment u32 that is seen
 * behind everything where the background is another map · guide to the light u32, 0 for none.
 */
export function setView(at: usize): void {
  cameraAt = at
  background = <i32>load<f64>(at, 136)
  width = load<f64>(at, 144)
  height = load<f64>(at, 152)
  seed = load<u32>(at, 160)
  setEnvironment(load<u32>(at, 164))
  setGuide(load<u32>(at, 188))
}

let pixelSeed: u32 = 0
let dimension: u32 = 0
// @ts-ignore: decorator
@inline
function pair(): u32 {
  return hashCombine(pixelSeed, dimension++)
}

// @ts-ignore: decorator
@inline
function countRay(): void {
  store<f64>(RAYS, load<f64>(RAYS) + 1)
}

// @ts-ignore: decorator
@inline
function clampFactor(r: f64, g: f64, b: f64): f64 {
  const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
  if (!(y > INDIRECT_LIMIT)) return 1
  store<f64>(CLAMPED, load<f64>(CLAMPED) + y - INDIRECT_LIMIT)
  return INDIRECT_LIMIT / y
}

// @ts-ignore: decorator
@inline
function answers(lox: f64, loy: f64, loz: f64, lx: f64, ly: f64, lz: f64, liz: f64): bool {
  evaluate(lox, loy, loz, lx * tx + ly * ty + lz * tz, lx * bx + ly * by + lz * bz, liz)
  return load<f64>(VALUE) + load<f64>(VALUE, 8) + load<f64>(VALUE, 16) > 0
}

/** Parameters and textures at a place into the surface; the frame bent and turned. */
function readSurface(material: usize, u: f64, v: f64, footprint: f64): void {
  const live = material + Material.LIVE
  const colors = <i32>load<u32>(material, Material.COLORS)
  const scalars = <i32>load<u32>(material, Material.SCALARS)
  let read = material + Material.READS
  for (let i = 0; i < colors; i++, read += Material.READ_BYTES) {
    lookUp(load<u32>(read, 4), u, v, footprint)
    const to = live + <usize>load<u32>(read)
    store<f64>(to, load<f64>(TEXEL))
    store<f64>(to, load<f64>(TEXEL, 8), 8)
    store<f64>(to, load<f64>(TEXEL, 16), 16)
  }
  for (let i = 0; i < scalars; i++, read += Material.READ_BYTES) {
    lookUp(load<u32>(read, 4), u, v, footprint)
    const value = load<f64>(TEXEL + ((<usize>load<u32>(read, 8)) << 3))
    store<f64>(live + <usize>load<u32>(read), load<u32>(read, 12) ? 1 - value : value)
  }
  setSurface(live, load<u32>(material, Material.TINTS_THROUGH) != 0)
  if (load<f64>(live, P.EMISSION_LUMINANCE) > 0) {
    const tinted = load<u32>(material, Material.TINTS_EMISSION) != 0
    for (let k: usize = 0; k < 24; k += 8)
      store<f64>(EMISSION + k, load<f64>(live + k, P.EMISSION_COLOR) * (tinted ? load<f64>(material + k, P.EMISSION_COLOR) : 1))
  }
  const normalMap = <usize>load<u32>(material, Material.NORMAL)
  const heightMap = <usize>load<u32>(material, Material.HEIGHT)
  if (normalMap) {
    lookUp(normalMap, u, v, footprint)
    const flip: f64 = load<u32>(material, Material.HANDEDNESS) ? -1 : 1
    bend(load<f64>(TEXEL) * 2 - 1, (load<f64>(TEXEL, 8) * 2 - 1) * flip, Math.max(load<f64>(TEXEL, 16) * 2 - 1, 0.05))
  } else if (heightMap) {
    const step = Math.max(footprint, 1 / sizeOf(heightMap))
    const at = TEXEL + ((<usize>load<u32>(material, Material.HEIGHT_CHANNEL)) << 3)
    lookUp(heightMap, u + step / 2, v, footprint)
    const right = load<f64>(at)
    lookUp(heightMap, u - step / 2, v, footprint)
    const left = load<f64>(at)
    lookUp(heightMap, u, v + step / 2, footprint)
    const below = load<f64>(at)
    lookUp(heightMap, u, v - step / 2, footprint)
    const above = load<f64>(at)
    bend(-((right - left) / step) * load<f64>(material, Material.SLOPE_U), ((below - above) / step) * load<f64>(material, Material.SLOPE_V), 1)
  }
  const rotation = load<f64>(live, P.TANGENT_ROTATION)
  if (rotation != 0) turn(rotation * 2 * Math.PI)
}

/** Corners and normals of a triangle of the placement that was hit, as they lie in the world, at PLACED. */
function putCorners(corners: usize, directions: usize, back: usize): void {
  const there = back + Placement.TO_WORLD
  for (let c: usize = 0; c < 36; c += 12) {
    const x = <f64>load<f32>(corners + c)
    const y = <f64>load<f32>(corners + c, 4)
    const z = <f64>load<f32>(corners + c, 8)
    const mx = <f64>load<f32>(directions + c)
    const my = <f64>load<f32>(directions + c, 4)
    const mz = <f64>load<f32>(directions + c, 8)
    for (let k: usize = 0; k < 3; k++) {
      const row = there + (k << 5)
      const moved = load<f64>(row) * x + load<f64>(row, 8) * y + load<f64>(row, 16) * z + load<f64>(row, 24)
      store<f32>(PLACED + c + (k << 2), <f32>moved)
      // A normal goes by the map back, transposed.
      const column = back + (k << 3)
      const turned = load<f64>(column) * mx + load<f64>(column, 32) * my + load<f64>(column, 64) * mz
      store<f32>(PLACED + c + (k << 2), <f32>turned, 36)
    }
  }
}

/** Traces one sample of one half of a pixel; what it brings back stands at RADIANCE and FEATURE. */
export function trace(px: i32, py: i32, index: u32, half: u32): void {
  pixelSeed = hashCombine(seed, <u32>py * <u32>width + <u32>px) ^ half
  dimension = 0
  let s = pair()
  sobolPair(index, s)
  const fx = ((<f64>px + 0.5 + filterOffset(pointX)) / width) * 2 - 1
  const fy = 1 - ((<f64>py + 0.5 + filterOffset(pointY)) / height) * 2
  const tanHalf = load<f64>(cameraAt, 96)
  const sx = fx * load<f64>(cameraAt, 104) * tanHalf
  const sy = fy * tanHalf
  let dx = load<f64>(cameraAt, 24) + load<f64>(cameraAt, 48) * sx + load<f64>(cameraAt, 72) * sy
  let dy = load<f64>(cameraAt, 32) + load<f64>(cameraAt, 56) * sx + load<f64>(cameraAt, 80) * sy
  let dz = load<f64>(cameraAt, 40) + load<f64>(cameraAt, 64) * sx + load<f64>(cameraAt, 88) * sy
  let ox = load<f64>(cameraAt)
  let oy = load<f64>(cameraAt, 8)
  let oz = load<f64>(cameraAt, 16)
  const lens = load<f64>(cameraAt, 168)
  if (lens > 0) {
    // From a place on the lens to where the ray through its middle meets the plane of what is sharp.
    sobolPair(index, pair())
    const away = lens * Math.sqrt(pointX)
    const turn = 2 * Math.PI * pointY
    const across = away * Math.cos(turn)
    const upwards = away * Math.sin(turn)
    const far = 1 / load<f64>(cameraAt, 176)
    const ax = load<f64>(cameraAt, 48) * across + load<f64>(cameraAt, 72) * upwards
    const ay = load<f64>(cameraAt, 56) * across + load<f64>(cameraAt, 80) * upwards
    const az = load<f64>(cameraAt, 64) * across + load<f64>(cameraAt, 88) * upwards
    ox += ax
    oy += ay
    oz += az
    dx -= ax * far
    dy -= ay * far
    dz -= az * far
  }
  const inv = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz)
  dx *= inv
  dy *= inv
  dz *= inv
  let tr: f64 = 1
  let tg: f64 = 1
  let tb: f64 = 1
  let r: f64 = 0
  let g: f64 = 0
  let b: f64 = 0
  let lastPdf: f64 = 0
  let lightSamples: i32 = 1
  let seesBackground = true
  let afterDiffuse = false
  let coneWidth: f64 = 0
  let coneSpread = (2 * tanHalf) / height
  let absorbR: f64 = 0
  let absorbG: f64 = 0
  let absorbB: f64 = 0
  for (let k: usize = 0; k < 24; k += 8) {
    store<f64>(FEATURE + k, 1)
    store<f64>(FEATURE + k, 0, 24)
  }
  store<f64>(FEATURE, 0, 48)
  store<i32>(FIRST_MATERIAL, -1)

  for (let bounce = 0; bounce <= MAX_BOUNCES; bounce++) {
    countRay()
    const t = closestHit(ox, oy, oz, dx, dy, dz, 1e30, afterDiffuse ? SOLID : EVERYTHING)
    const distance = load<f64>(RESULT)
    const u = load<f64>(RESULT, 8)
    const v = load<f64>(RESULT, 16)
    const placement = hitPlacement
    if (afterDiffuse && tintedRoot) {
      tintThrough(ox, oy, oz, dx, dy, dz, t < 0 ? 1e30 : distance)
      tr *= load<f64>(TINT_THROUGH)
      tg *= load<f64>(TINT_THROUGH, 8)
      tb *= load<f64>(TINT_THROUGH, 16)
    }
    if (t < 0) {
      if (seesBackground && background) {
        if (background == COLOR) {
          r += tr * load<f64>(cameraAt, 112)
          g += tg * load<f64>(cameraAt, 120)
          b += tb * load<f64>(cameraAt, 128)
        } else {
          setEnvironment(load<u32>(cameraAt, 184))
          seeEnvironment(dx, dy, dz)
          setEnvironment(load<u32>(cameraAt, 164))
          r += tr * load<f64>(LIGHT)
          g += tg * load<f64>(LIGHT, 8)
          b += tb * load<f64>(LIGHT, 16)
        }
        break
      }
      const density = environmentRadiance(dx, dy, dz)
      const weight = bounce == 0 ? 1 : lastPdf / (lastPdf + <f64>lightSamples * density)
      const cr = tr * load<f64>(LIGHT) * weight
      const cg = tg * load<f64>(LIGHT, 8) * weight
      const cb = tb * load<f64>(LIGHT, 16) * weight
      const limit = afterDiffuse ? clampFactor(cr, cg, cb) : 1
      r += cr * limit
      g += cg * limit
      b += cb * limit
      break
    }
    if (absorbR > 0 || absorbG > 0 || absorbB > 0) {
      tr *= Math.exp(-absorbR * distance)
      tg *= Math.exp(-absorbG * distance)
      tb *= Math.exp(-absorbB * distance)
    }
    coneWidth += coneSpread * distance
    const triangle = <usize>t
    const materialIndex = <usize>load<u16>(materialOf + (triangle << 1))
    const material = materials + materialIndex * MATERIAL_BYTES
    const w = 1 - u - v
    let p = positions + triangle * 36
    let q = normals + triangle * 36
    let density = <f64>load<f32>(uvDensity + (triangle << 2))
    if (placement) {
      putCorners(p, q, placement)
      p = PLACED
      q = PLACED + 36
      density *= load<f64>(placement, Placement.DENSITY)
    }
    const ax = <f64>load<f32>(p)
    const ay = <f64>load<f32>(p, 4)
    const az = <f64>load<f32>(p, 8)
    const cx = <f64>load<f32>(p, 12)
    const cy = <f64>load<f32>(p, 16)
    const cz = <f64>load<f32>(p, 20)
    const ex = <f64>load<f32>(p, 24)
    const ey = <f64>load<f32>(p, 28)
    const ez = <f64>load<f32>(p, 32)
    const x = ax * w + cx * u + ex * v
    const y = ay * w + cy * u + ey * v
    const z = az * w + cz * u + ez * v
    const e1x = cx - ax
    const e1y = cy - ay
    const e1z = cz - az
    const e2x = ex - ax
    const e2y = ey - ay
    const e2z = ez - az
    let gx = e1y * e2z - e1z * e2y
    let gy = e1z * e2x - e1x * e2z
    let gz = e1x * e2y - e1y * e2x
    const area = Math.sqrt(gx * gx + gy * gy + gz * gz)
    if (!(area > 0)) break
    gx /= area
    gy /= area
    gz /= area
    let mx = <f64>load<f32>(q) * w + <f64>load<f32>(q, 12) * u + <f64>load<f32>(q, 24) * v
    let my = <f64>load<f32>(q, 4) * w + <f64>load<f32>(q, 16) * u + <f64>load<f32>(q, 28) * v
    let mz = <f64>load<f32>(q, 8) * w + <f64>load<f32>(q, 20) * u + <f64>load<f32>(q, 32) * v
    const nl = Math.sqrt(mx * mx + my * my + mz * mz)
    if (nl > 1e-8) {
      mx /= nl
      my /= nl
      mz /= nl
    } else {
      mx = gx
      my = gy
      mz = gz
    }
    if (gx * mx + gy * my + gz * mz < 0) {
      gx = -gx
      gy = -gy
      gz = -gz
    }
    const inside = gx * dx + gy * dy + gz * dz > 0
    const facing: f64 = inside ? -1 : 1
    const uv = uvs + triangle * 24
    const tu = <f64>load<f32>(uv) * w + <f64>load<f32>(uv, 8) * u + <f64>load<f32>(uv, 16) * v
    const tv = <f64>load<f32>(uv, 4) * w + <f64>load<f32>(uv, 12) * u + <f64>load<f32>(uv, 20) * v
    const grazing = Math.max(0.15, Math.abs(gx * dx + gy * dy + gz * dz))
    const footprint = (density * coneWidth) / Math.sqrt(grazing)
    buildFrame(uv, mx, my, mz, e1x, e1y, e1z, e2x, e2y, e2z)
    readSurface(material, tu, tv, footprint)
    let loz = -(dx * nx + dy * ny + dz * nz)
    if (loz * facing < 0.02) {
      leanTowards(-dx, -dy, -dz, facing, mx, my, mz)
      loz = -(dx * nx + dy * ny + dz * nz)
    }
    if (bounce == 0) {
      const tint = ownColorShare()
      for (let k: usize = 0; k < 24; k += 8) store<f64>(FEATURE + k, 1 + (load<f64>(BASE + k) - 1) * tint)
      store<f64>(FEATURE, nx, 24)
      store<f64>(FEATURE, ny, 32)
      store<f64>(FEATURE, nz, 40)
      store<f64>(FEATURE, distance, 48)
      store<i32>(FIRST_MATERIAL, <i32>materialIndex)
    }
    const lox = -(dx * tx + dy * ty + dz * tz)
    const loy = -(dx * bx + dy * by + dz * bz)
    const glow = load<f64>(material, P.EMISSION_LUMINANCE)
    if (glow > 0 && !(afterDiffuse && lampCount > 0)) {
      const e = glow / WHITE_NITS
      r += tr * e * load<f64>(EMISSION)
      g += tg * e * load<f64>(EMISSION, 8)
      b += tb * e * load<f64>(EMISSION, 16)
    }
    if (afterDiffuse) blur(BLURRED_ROUGHNESS)
    prepare(lox, loy, loz)
    const eps = 2e-6 * Math.max(Math.max(1, Math.abs(x)), Math.max(Math.abs(y), Math.abs(z)))

    s = pair()
    lightSamples = isPureMirror(PURE_ROUGHNESS) ? 0 : afterDiffuse || isMirror(SHARP_ROUGHNESS) ? 1 : LIGHT_SAMPLES
    enterSpot(x, y, z, gx * facing, gy * facing, gz * facing)
    const isLed = hasSpot() && !isMirror(MIRROR_ROUGHNESS) && !letsThrough()
    if (lightSamples == LIGHT_SAMPLES) {
      gatherFour(index * LIGHT_SAMPLES, s, x, y, z, gx, gy, gz, eps, lox, loy, loz, isLed ? LED : 0)
      r += tr * gatheredR
      g += tg * gatheredG
      b += tb * gatheredB
    } else if (lightSamples > 0) {
      sobolPair(index, s)
      sampleEnvironment(pointX, pointY)
      const lx = lightX
      const ly = lightY
      const lz = lightZ
      const density = lightPdf
      const liz = lx * nx + ly * ny + lz * nz
      const geometric = lx * gx + ly * gy + lz * gz
      if (density > 0 && liz * geometric > 0 && answers(lox, loy, loz, lx, ly, lz, liz)) {
        const vr = load<f64>(VALUE)
        const vg = load<f64>(VALUE, 8)
        const vb = load<f64>(VALUE, 16)
        const away = geometric > 0 ? eps : -eps
        countRay()
        if (!isOccluded(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, 1e30)) {
          tintThrough(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, 1e30)
          drawnRadiance()
          const weight = 1 / (density + (isLed ? (1 - LED) * pdf + LED * bounceDensity(lx, ly, lz) : pdf))
          const cr = tr * vr * load<f64>(LIGHT) * weight * load<f64>(TINT_THROUGH)
          const cg = tg * vg * load<f64>(LIGHT, 8) * weight * load<f64>(TINT_THROUGH, 8)
          const cb = tb * vb * load<f64>(LIGHT, 16) * weight * load<f64>(TINT_THROUGH, 16)
          const limit = afterDiffuse ? clampFactor(cr, cg, cb) : 1
          r += cr * limit
          g += cg * limit
          b += cb * limit
        }
      }
    }

    const least: f64 = afterDiffuse && hasGuide() ? LEAST_LAMP : 0
    for (let i = 0; i < lampCount; i++) {
      const lamp = lamps + <usize>i * LAMP_BYTES
      s = pair()
      const lampX = load<f64>(lamp) - x
      const lampY = load<f64>(lamp, 8) - y
      const lampZ = load<f64>(lamp, 16) - z
      const radius = load<f64>(lamp, 24)
      const nearest = load<f64>(lamp, 32)
      sobolPair(index, s)
      const rise = 2 * pointX - 1
      turnOf(pointY)
      const across = Math.sqrt(1 - rise * rise)
      const ballX = across * turnCosine
      const ballZ = across * turnSine
      const near = ballX * lampX + rise * lampY + ballZ * lampZ > 0 ? -radius : radius
      let lx = lampX + ballX * near
      let ly = lampY + rise * near
      let lz = lampZ + ballZ * near
      const squared = lx * lx + ly * ly + lz * lz
      if (!(squared > radius * radius * 1e-4)) continue
      const isNear = squared < nearest * nearest
      if (isNear && afterDiffuse) continue
      const reach = Math.sqrt(squared)
      lx /= reach
      ly /= reach
      lz /= reach
      const liz = lx * nx + ly * ny + lz * nz
      const geometric = lx * gx + ly * gy + lz * gz
      if (!(liz * geometric > 0)) continue
      if (!answers(lox, loy, loz, lx, ly, lz, liz)) continue
      const vr = load<f64>(VALUE)
      const vg = load<f64>(VALUE, 8)
      const vb = load<f64>(VALUE, 16)
      const profile = <usize>load<u32>(lamp, 64)
      const share = profile ? readProfile(profile, -lx, -ly, -lz) : 1
      let strength = share / (isNear ? nearest * nearest : squared)
      if (!(strength > 0)) continue
      const open =
        (0.2126 * tr * vr * load<f64>(lamp, 40) + 0.7152 * tg * vg * load<f64>(lamp, 48) + 0.0722 * tb * vb * load<f64>(lamp, 56)) * strength
      if (open < least) {
        if (sobolX(index, hashCombine(s, CHANCE)) * least >= open) continue
        strength *= least / open
      }
      const away = geometric > 0 ? eps : -eps
      countRay()
      if (isOccluded(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, reach * (1 - 1e-4))) continue
      tintThrough(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, reach * (1 - 1e-4))
      const cr = tr * vr * load<f64>(lamp, 40) * strength * load<f64>(TINT_THROUGH)
      const cg = tg * vg * load<f64>(lamp, 48) * strength * load<f64>(TINT_THROUGH, 8)
      const cb = tb * vb * load<f64>(lamp, 56) * strength * load<f64>(TINT_THROUGH, 16)
      const limit = afterDiffuse ? clampFactor(cr, cg, cb) : 1
      r += cr * limit
      g += cg * limit
      b += cb * limit
    }

    s = pair()
    let choice = sobolX(index, pair())
    sobolPair(index, s)
    let towards: f64
    if (isLed && choice < LED) {
      sampleBounce(pointX, pointY)
      dx = lightX
      dy = lightY
      dz = lightZ
      const diz = dx * nx + dy * ny + dz * nz
      towards = dx * gx + dy * gy + dz * gz
      if (towards * diz <= 0 || !answers(lox, loy, loz, dx, dy, dz, diz)) break
      keepsSide()
    } else {
      if (isLed) choice = (choice - LED) / (1 - LED)
      if (!sample(lox, loy, loz, choice, pointX, pointY)) break
      dx = tx * wix + bx * wiy + nx * wiz
      dy = ty * wix + by * wiy + ny * wiz
      dz = tz * wix + bz * wiy + nz * wiz
      towards = dx * gx + dy * gy + dz * gz
      if (towards * wiz <= 0) break
    }
    lastPdf = isLed ? (1 - LED) * pdf + LED * bounceDensity(dx, dy, dz) : pdf
    tr *= load<f64>(VALUE) / lastPdf
    tg *= load<f64>(VALUE, 8) / lastPdf
    tb *= load<f64>(VALUE, 16) / lastPdf
    if (transmitted && passesThrough()) {
      const depth = load<f64>(material, P.TRANSMISSION_DEPTH)
      const absorbs = towards < 0 && depth > 0
      absorbR = absorbs ? -Math.log(Math.max(load<f64>(material, P.TRANSMISSION_COLOR), 1e-4)) / depth : 0
      absorbG = absorbs ? -Math.log(Math.max(load<f64>(material + 8, P.TRANSMISSION_COLOR), 1e-4)) / depth : 0
      absorbB = absorbs ? -Math.log(Math.max(load<f64>(material + 16, P.TRANSMISSION_COLOR), 1e-4)) / depth : 0
    } else if (!transmitted) seesBackground = false
    if (!isMirror(MIRROR_ROUGHNESS)) afterDiffuse = true
    coneSpread += roughness * 0.3
    const away = towards > 0 ? eps : -eps
    ox = x + gx * away
    oy = y + gy * away
    oz = z + gz * away
    const peak = Math.max(tr, Math.max(tg, tb))
    if (!(peak > 1e-4)) break
    if (bounce >= ROULETTE_FROM) {
      const survive = Math.min(0.95, peak)
      if (sobolX(index, pair()) >= survive) break
      tr /= survive
      tg /= survive
      tb /= survive
    }
  }
  store<f64>(RADIANCE, isFinite(r) ? r : 0)
  store<f64>(RADIANCE, isFinite(g) ? g : 0, 8)
  store<f64>(RADIANCE, isFinite(b) ? b : 0, 16)
}

/** Traces samples of one half of a pixel and adds to SUMS: radiance 3 · squared luminance · features 7. */
export function tracePixel(px: i32, py: i32, from: u32, until: u32, half: u32): void {
  for (let index = from; index < until; index++) {
    trace(px, py, index, half)
    const r = load<f64>(RADIANCE)
    const g = load<f64>(RADIANCE, 8)
    const b = load<f64>(RADIANCE, 16)
    const l = Math.min(0.2126 * r + 0.7152 * g + 0.0722 * b, 4)
    store<f64>(SUMS, load<f64>(SUMS) + r)
    store<f64>(SUMS, load<f64>(SUMS, 8) + g, 8)
    store<f64>(SUMS, load<f64>(SUMS, 16) + b, 16)
    store<f64>(SUMS, load<f64>(SUMS, 24) + l * l, 24)
    for (let k: usize = 0; k < 56; k += 8) store<f64>(SUMS + k, load<f64>(SUMS + k, 32) + load<f64>(FEATURE + k), 32)
  }
}

/** The same for each pixel of an area, row by row: eleven numbers each to `dst`. */
export function traceArea(x0: i32, y0: i32, across: i32, down: i32, from: u32, until: u32, half: u32, dst: usize): void {
  let to = dst
  for (let y = y0; y < y0 + down; y++)
    for (let x = x0; x < x0 + across; x++, to += 88) {
      memory.fill(SUMS, 0, 88)
      tracePixel(x, y, from, until, half)
      memory.copy(to, SUMS, 88)
    }
}

/** A lamp: position 3 · radius · nearest · intensity 3 · profile u32 · 4 unused. */
const LAMP_BYTES: usize = 72

/** A lamp's profile, f32: 181 × 2 angles from straight down for each of 73 about the vertical, the last the first once more. */
const PROFILE_GAMMAS: i32 = 361

function readProfile(profile: usize, x: f64, y: f64, z: f64): f64 {
  const gamma = (angleOf(Math.sqrt(x * x + z * z), -y) * 360) / Math.PI
  const plane = ((angleOf(x, -z) * 180) / Math.PI + 360) / 5
  const g = min<i32>(PROFILE_GAMMAS - 2, <i32>gamma)
  const c = <i32>plane
  const fg = gamma - <f64>g
  const fc = plane - <f64>c
  const near = profile + ((<usize>((c % 72) * PROFILE_GAMMAS + g)) << 2)
  const far = profile + ((<usize>(((c + 1) % 72) * PROFILE_GAMMAS + g)) << 2)
  return (
    (<f64>load<f32>(near) * (1 - fg) + <f64>load<f32>(near, 4) * fg) * (1 - fc) +
    (<f64>load<f32>(far) * (1 - fg) + <f64>load<f32>(far, 4) * fg) * fc
  )
}
