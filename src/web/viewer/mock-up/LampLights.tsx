import { useLayoutEffect, useRef } from 'react'
import type { PointLight, SpotLight } from 'three'
import { EMISSION_WHITE_NITS } from '#core/material/emission'
import { type Quaternion, rotate } from '#core/math/quaternion'
import { add } from '#core/math/vec3'
import { beamOf, isLightHidden, lightColor } from '#core/mock-up/light/lamps'
import type { Light, Scene } from '#core/mock-up/scene/scene'
import type { CandelaWeb } from '#core/photometry/candela-web'

/** Each costs every pixel that is drawn. */
const MOST = 8

export interface ShownLights {
  lights: Scene['lights']
  groups: Scene['groups']
  webs: ReadonlyMap<string, CandelaWeb>
  ev: number
}

/** The lights of a mock-up as the live view can show them: without shadows, a curve as a cone. */
export function LampLights({ lights, groups, webs, ev }: ShownLights) {
  const shown = Object.entries(lights).filter(([, light]) => !isLightHidden({ groups }, light))
  return (
    <>
      {shown.slice(0, MOST).map(([id, light]) => (
        <One key={id} light={light} web={light.item ? (webs.get(light.item.inputKey) ?? null) : null} gain={2 ** ev} />
      ))}
    </>
  )
}

function One({ light, web, gain }: { light: Light; web: CandelaWeb | null; gain: number }) {
  const spot = useRef<SpotLight>(null)
  const point = useRef<PointLight>(null)
  const { coneRad, candela } = beamOf(light, web)
  const down = rotate(light.turn as Quaternion, [0, -1, 0])
  useLayoutEffect(() => {
    const own = spot.current ?? point.current
    if (!own) return
    own.position.set(...light.position)
    own.intensity = (candela / EMISSION_WHITE_NITS) * gain
    own.color.setRGB(...lightColor(light, web))
    if (!spot.current || coneRad === null) return
    spot.current.angle = coneRad
    spot.current.target.position.set(...add(light.position, down))
    spot.current.target.updateMatrixWorld()
  })
  return coneRad !== null ? <spotLight ref={spot} decay={2} penumbra={1} /> : <pointLight ref={point} decay={2} />
}
