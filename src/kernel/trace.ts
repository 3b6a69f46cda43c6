import { cosine as turnCosine, sine as turnSine, turnOf } from './angles'
import { tintThrough } from './clear'
import {
  bounceDensity,
  drawnRadiance,
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
} from './environment'
import { gatheredB, gatheredG, gatheredR, gatherFour } from './first-light'
import { wavelengthOf } from './dispersion'
import { buildFrame, bx, by, bz, leanTowards, nx, ny, nz, tx, ty, tz } from './frame'
import { LAMP_BYTES, readProfile } from './lamp'
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
  TINT_THROUGH,
  VALUE,
} from './memory'
import { putCorners, readSurface } from './read-surface'
import { beginDraws, hashCombine, pair, pointX, pointY, sobolPair, sobolX } from './sampling'
import { lampCount, lamps, MATERIAL_BYTES, materialOf, materials, normals, positions, uvDensity, uvs } from './scene'
import { evaluate, pdf } from './surface/evaluate'
import { bendAt, blur, disperses, isMirror, openUp, ownColorShare, passesThrough, roughness } from './surface/parameters'
import { isPureMirror, letsThrough, prepare } from './surface/prepared'
import { keepsSide, sample, transmitted, wentBeneath, wix, wiy, wiz } from './surface/sample'
import { closestHit, EVERYTHING, hitPlacement, isOccluded, Placement, RESULT, SOLID, tintedRoot } from './traverse'
import { BACK, leftB, leftG, leftR, LOST, outX, outY, outZ, walk } from './walk'
import { aim, background, cameraAt, COLOR, height, rayDX, rayDY, rayDZ, rayX, rayY, rayZ, seed, width } from './view'

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

/** Traces one sample of one half of a pixel; what it brings back stands at RADIANCE and FEATURE. */
export function trace(px: i32, py: i32, index: u32, half: u32): void {
  beginDraws(hashCombine(seed, <u32>py * <u32>width + <u32>px) ^ half)
  aim(px, py, index)
  let ox = rayX
  let oy = rayY
  let oz = rayZ
  let dx = rayDX
  let dy = rayDY
  let dz = rayDZ
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
  let coneSpread = (2 * load<f64>(cameraAt, 96)) / height
  let absorbR: f64 = 0
  let absorbG: f64 = 0
  let absorbB: f64 = 0
  // Where light from beneath comes out, if the place at hand is that.
  let comesOut = false
  let way = 0
  let outTriangle = -1
  let outU: f64 = 0
  let outV: f64 = 0
  let outPlacement: usize = 0
  let wavelength: f64 = 0
  for (let k: usize = 0; k < 24; k += 8) {
    store<f64>(FEATURE + k, 1)
    store<f64>(FEATURE + k, 0, 24)
  }
  store<f64>(FEATURE, 0, 48)
  store<i32>(FIRST_MATERIAL, -1)

  for (let bounce = 0; bounce <= MAX_BOUNCES; bounce++) {
    if (!comesOut) {
      countRay()
      outTriangle = closestHit(ox, oy, oz, dx, dy, dz, 1e30, afterDiffuse ? SOLID : EVERYTHING)
      outU = load<f64>(RESULT, 8)
      outV = load<f64>(RESULT, 16)
      outPlacement = hitPlacement
    }
    const t = outTriangle
    const distance = load<f64>(RESULT)
    const u = outU
    const v = outV
    const placement = outPlacement
    if (afterDiffuse && !comesOut && tintedRoot) {
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
    if (!comesOut && (absorbR > 0 || absorbG > 0 || absorbB > 0)) {
      tr *= Math.exp(-absorbR * distance)
      tg *= Math.exp(-absorbG * distance)
      tb *= Math.exp(-absorbB * distance)
    }
    if (!comesOut) coneWidth += coneSpread * distance
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
    if (comesOut) {
      dx = -gx * facing
      dy = -gy * facing
      dz = -gz * facing
    }
    const uv = uvs + triangle * 24
    const tu = <f64>load<f32>(uv) * w + <f64>load<f32>(uv, 8) * u + <f64>load<f32>(uv, 16) * v
    const tv = <f64>load<f32>(uv, 4) * w + <f64>load<f32>(uv, 12) * u + <f64>load<f32>(uv, 20) * v
    const grazing = Math.max(0.15, Math.abs(gx * dx + gy * dy + gz * dz))
    const footprint = (density * coneWidth) / Math.sqrt(grazing)
    buildFrame(uv, mx, my, mz, e1x, e1y, e1z, e2x, e2y, e2z)
    readSurface(material, tu, tv, footprint)
    if (comesOut) openUp()
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
    if (glow > 0 && !comesOut && !(afterDiffuse && lampCount > 0)) {
      const e = glow / WHITE_NITS
      r += tr * e * load<f64>(EMISSION)
      g += tg * e * load<f64>(EMISSION, 8)
      b += tb * e * load<f64>(EMISSION, 16)
    }
    if (afterDiffuse) blur(BLURRED_ROUGHNESS)
    comesOut = false
    let isDrawn = false
    if (disperses(material)) {
      isDrawn = wavelength == 0
      if (isDrawn) wavelength = wavelengthOf(sobolX(index, pair()))
      bendAt(material, wavelength, isDrawn)
    }
    prepare(lox, loy, loz)
    const eps = 2e-6 * Math.max(Math.max(1, Math.abs(x)), Math.max(Math.abs(y), Math.abs(z)))

    let s = pair()
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
    if (isDrawn && !transmitted) wavelength = 0
    if (wentBeneath) lastPdf = isLed ? (1 - LED) * pdf : pdf
    else lastPdf = isLed ? (1 - LED) * pdf + LED * bounceDensity(dx, dy, dz) : pdf
    tr *= load<f64>(VALUE) / lastPdf
    tg *= load<f64>(VALUE, 8) / lastPdf
    tb *= load<f64>(VALUE, 16) / lastPdf
    if (wentBeneath) {
      const away = towards > 0 ? eps : -eps
      way = walk(material + Material.LIVE, x + gx * away, y + gy * away, z + gz * away, dx, dy, dz, index)
      if (way == LOST) break
      if (way == BACK) {
        dx = -gx * facing
        dy = -gy * facing
        dz = -gz * facing
      } else {
        outTriangle = way
        outU = load<f64>(RESULT, 8)
        outV = load<f64>(RESULT, 16)
        outPlacement = hitPlacement
        dx = -outX
        dy = -outY
        dz = -outZ
      }
      tr *= leftR
      tg *= leftG
      tb *= leftB
      comesOut = true
      seesBackground = false
      continue
    }
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
