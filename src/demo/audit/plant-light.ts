import type { Document, Node } from '@gltf-transform/core'
import { KHRLightsPunctual, type Light } from '@gltf-transform/extensions'
import { printLuminaire } from '#core/audit/print-light'
import type { Random } from '#core/math/random'
import type { ItemSource } from '#files/items/item-source'
import { readLightCurve } from '#files/items/load-item'

/** A luminaire of the library as a light of a scene, as it is handed over. */
export async function makeLightNode(document: Document, source: ItemSource): Promise<Node> {
  const { light } = await readLightCurve(source)
  const { kind, color, intensity, coneRad } = printLuminaire(light!.web)
  const made = document.createExtension(KHRLightsPunctual).createLight().setType(kind).setColor(color).setIntensity(intensity)
  if (coneRad !== null) made.setOuterConeAngle(coneRad).setInnerConeAngle(0)
  return document.createNode().setExtension('KHR_lights_punctual', made)
}

const lightOf = (node: Node): Light => node.getExtension<Light>('KHR_lights_punctual')!

/** What nobody means by it: it is dimmed, and stands somewhere. */
export function passLightOn(node: Node, random: Random): void {
  lightOf(node).setIntensity(lightOf(node).getIntensity() * random.between(0.2, 0.9))
}

/** What somebody may have done to a light in a project. */
export const LIGHT_ALTERATIONS: Record<string, (node: Node, random: Random) => void> = {
  stronger: (node, random) => {
    lightOf(node).setIntensity(lightOf(node).getIntensity() * random.between(1.05, 3))
  },
  recoloured: (node, random) => {
    const [r, g, b] = lightOf(node).getColor()
    const k = random.between(0.4, 0.9)
    lightOf(node).setColor([r, g * k, b * k * k])
  },
  widened: (node, random) => {
    const light = lightOf(node)
    // A point has no beam: it becomes a spot.
    if (light.getType() === 'point') light.setType('spot').setInnerConeAngle(0).setOuterConeAngle(random.between(0.2, 1))
    else light.setOuterConeAngle(Math.min(1.5, light.getOuterConeAngle() * random.between(1.1, 1.8)))
  },
}
