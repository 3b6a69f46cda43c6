import { z } from 'zod'
import type { Scene, Shot } from '../mock-up/scene/scene'
import type { Change } from './compare-materials'

/** The sky that a view is lit by. */
const skyNoteSchema = z.object({
  name: z.string(),
  code: z.string().nullable(),
  version: z.number().nullable(),
  sun: z.string(),
  background: z.string(),
  turnDeg: z.number(),
  ev: z.number(),
})
export type SkyNote = z.infer<typeof skyNoteSchema>

/** What no camera of a scene's form can hold, beside it: exposure, and the sky; null is the house light. */
const viewNoteSchema = z.object({ exposureEv: z.number(), isUpright: z.boolean(), sky: skyNoteSchema.nullable() })
export type ViewNote = z.infer<typeof viewNoteSchema>

/** A view as a scene has it. */
export interface ViewPrint {
  name: string
  focalMm: number
  /** Metres. */
  position: readonly [number, number, number]
  /** Of unit length. */
  direction: readonly [number, number, number]
  /** Null where the scene says nothing of it. */
  note: ViewNote | null
}

/** Of a frame 24 mm high. @param yFov in radians */
export const focalOf = (yFov: number): number => 12 / Math.tan(yFov / 2)

export const noteOfShot = ({ ev, isUpright, sky: id }: Shot, skies: Scene['skies']): ViewNote => {
  const sky = id === null ? undefined : skies[id]
  if (!sky) return { exposureEv: ev, isUpright, sky: null }
  const { name, item, clear, sun, background, turnDeg } = sky
  return {
    exposureEv: ev,
    isUpright,
    sky: {
      name: clear ? `${name}, ${clear.at}` : name,
      code: item?.code ?? null,
      version: item?.version ?? null,
      ...{ sun, background, turnDeg, ev: sky.ev },
    },
  }
}

/** What was noted beside a camera; null where nothing was, or something else. */
export const readViewNote = (note: unknown): ViewNote | null => viewNoteSchema.safeParse(note).data ?? null

/** Degrees, stops, metres and a share, from which on two views are not the same. */
const TURN_STEP = 0.5
const EV_STEP = 0.02
const PLACE_STEP = 0.01
const FOCAL_STEP = 0.01

/** What makes two views of the same thing look otherwise: light first, then the camera; from the other to this one. */
export function compareViews(own: ViewPrint, other: ViewPrint): Change[] {
  const changes: Change[] = []
  const note = (what: string, from: string | number, to: string | number) => changes.push({ what, from, to })
  if (own.note && other.note) {
    const [here, there] = [own.note, other.note]
    if (nameOf(here.sky) !== nameOf(there.sky)) note('sky', nameOf(there.sky), nameOf(here.sky))
    if (here.sky && there.sky) {
      if (turnBetween(here.sky.turnDeg, there.sky.turnDeg) > TURN_STEP)
        note('headingOfTheSky', sayDegrees(there.sky.turnDeg), sayDegrees(here.sky.turnDeg))
      if (Math.abs(here.sky.ev - there.sky.ev) > EV_STEP)
        note('brightnessOfTheSky', sayStops(there.sky.ev), sayStops(here.sky.ev))
      if (here.sky.sun !== there.sky.sun) note('sun', SUNS[there.sky.sun] ?? there.sky.sun, SUNS[here.sky.sun] ?? here.sky.sun)
    }
    if (Math.abs(here.exposureEv - there.exposureEv) > EV_STEP)
      note('exposure', sayStops(there.exposureEv), sayStops(here.exposureEv))
  }
  if (Math.abs(own.focalMm / other.focalMm - 1) > FOCAL_STEP) note('lens', sayLens(other), sayLens(own))
  const moved = Math.hypot(...own.position.map((x, k) => x - other.position[k]))
  if (moved > PLACE_STEP) note('standpoint', 'where it was', `${moved < 1 ? moved.toFixed(2) : moved.toFixed(1)} m away`)
  const cosine = own.direction.reduce((sum, x, k) => sum + x * other.direction[k], 0)
  const turned = (Math.acos(Math.min(1, Math.max(-1, cosine))) * 180) / Math.PI
  if (turned > TURN_STEP) note('direction', 'as it was', `turned by ${sayDegrees(turned)}`)
  return changes
}

const SUNS: Readonly<Record<string, string>> = { asItIs: 'as it is', soft: 'softened', none: 'left out' }

const nameOf = (sky: SkyNote | null): string =>
  sky === null ? 'house light' : sky.code === null ? sky.name : `${sky.code}, version ${sky.version}`
const turnBetween = (a: number, b: number): number => {
  const apart = Math.abs(a - b) % 360
  return Math.min(apart, 360 - apart)
}
const sayDegrees = (degrees: number): string => `${Math.round(degrees * 10) / 10}°`
const sayStops = (ev: number): string => `${ev > 0 ? '+' : ''}${Math.round(ev * 100) / 100} EV`
const sayLens = ({ focalMm }: ViewPrint): string => `${Math.round(focalMm * 10) / 10} mm`
