import { useMemo, useState } from 'react'
import { toast } from 'sonner'
import { type Lens, lensInWindow } from '#core/mock-up/composing/look-through'
import { daylightShare } from '#core/mock-up/light/daylight-share'
import { mapOfSky } from '#core/mock-up/light/sky-map'
import type { Scene, Shot } from '#core/mock-up/scene/scene'
import type { Resources } from '#core/mock-up/things/resources'
import type { ViewLight } from '../../../viewer/mock-up/MockUpView'
import type { MockUpSession } from './mock-up-session'
import { newId } from './new-id'
import { shotsInOrder } from './shots-in-order'

const FIRST_LENS: Lens = { position: [3.2, 1.9, 4.6], target: [0, 0.7, 0], focalMm: 28, aspect: 1.6, isUpright: false }
/** Of a clear sky in the live view, where it follows the pointer. */
export const LIVE_SKY_PX = 512

const lensOf = ({ position, target, focalMm, aspect, isUpright }: Shot): Lens => ({
  position,
  target,
  focalMm,
  aspect,
  isUpright,
})

/** Which shot a mock-up is looked at through, from where just now, and under which sky. */
export function useShots(
  scene: Scene,
  session: MockUpSession,
  skies: Resources['skies'],
  size: { width: number; height: number },
) {
  const shots = shotsInOrder(scene)
  const [id, setId] = useState<string | null>(shots[0]?.[0] ?? null)
  const shot = id === null ? undefined : scene.shots[id]
  const [lens, setLens] = useState<Lens>(() => (shot ? lensOf(shot) : FIRST_LENS))
  const [freeSky, setFreeSky] = useState<string | null>(Object.keys(scene.skies)[0] ?? null)
  const wantedSky = shot ? shot.sky : freeSky
  const sky = wantedSky === null ? undefined : scene.skies[wantedSky]
  const skyId = sky ? wantedSky : null
  const ev = shot?.ev ?? 0
  const seen = useMemo(() => lensInWindow(lens, size.width / size.height), [lens, size])
  /** What is seen, as a shot. */
  const viewShot = useMemo<Shot>(
    () => ({
      ...seen,
      name: 'view',
      place: 0,
      ev,
      sky: skyId,
      variants: shot?.variants ?? {},
      focus: shot?.focus ?? null,
    }),
    [seen, ev, skyId, shot?.variants, shot?.focus],
  )
  const map = useMemo(() => (sky && mapOfSky(sky, skies, LIVE_SKY_PX)) ?? null, [sky, skies])
  const light = useMemo<ViewLight>(
    () => ({
      map,
      turnDeg: sky?.turnDeg ?? 0,
      ev: ev + (sky?.ev ?? 0),
      share: sky ? daylightShare(scene.stage) : 1,
      background: sky?.background ?? 'plain',
    }),
    [map, sky, ev, scene.stage],
  )
  return {
    shots,
    shotId: shot ? id : null,
    shot,
    lens,
    /** The lens as the window shows it. */
    seen,
    viewShot,
    light,
    ev,
    skyId,
    sky,
    /** The view has gone away from what the shot frames. */
    isAway: shot !== undefined && JSON.stringify(lens) !== JSON.stringify(lensOf(shot)),
    /** Keeps the proportions and the focal length: only where one looks from. */
    look: (next: Lens) => setLens({ ...next, aspect: lens.aspect, focalMm: lens.focalMm }),
    setSky: (next: string | null) => {
      if (id !== null && shot) session.act({ shots: { [id]: { ...shot, sky: next } } })
      setFreeSky(next)
    },
    toShot: (next: string) => {
      setId(next)
      setLens(lensOf(scene.shots[next]))
    },
    leaveShot: () => setId(null),
    setHere: () => id !== null && shot && session.act({ shots: { [id]: { ...shot, ...lens } } }),
    goBack: () => shot && setLens(lensOf(shot)),
    follow: (next: Shot) => setLens(lensOf(next)),
    take: () => {
      const made = newId()
      const place = Math.max(0, ...shots.map(([, s]) => s.place)) + 1
      const kept: Shot = { ...lens, name: `Shot ${shots.length + 1}`, place, ev, sky: skyId, variants: {}, focus: null }
      session.act({ shots: { [made]: kept } })
      setId(made)
      toast('The shot is kept.')
    },
  }
}
