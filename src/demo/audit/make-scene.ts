import { Document, type Material, type Node, type Scene } from '@gltf-transform/core'
import type { Light } from '@gltf-transform/extensions'
import { mergeDocuments, unpartition } from '@gltf-transform/functions'
import type { AuditClass } from '#core/audit/reference'
import { createSheet } from '#core/geometry/shapes'
import { createRandom, type Random } from '#core/math/random'
import { readGltfBinary, writeGltfBinary } from '#core/targets/gltf'
import { writeMaterialGlb } from '#files/exports/write-material'
import { type ItemSource, mainFile } from '#files/items/item-source'
import { readBytes } from '#files/reading/source-file'
import { createPrimitive } from '../model-file'
import { ALTERATIONS, passOn } from './alter-material'
import { MODEL_ALTERATIONS, passModelOn } from './alter-model'
import type { AuditLibrary, LibraryVersion } from './make-library'
import { LIGHT_ALTERATIONS, makeLightNode, passLightOn } from './plant-light'

/** What a thing of the scene truly is. Its name in the scene begins with `key`. */
export interface PlantedThing {
  key: string
  kind: 'material' | 'model' | 'light'
  class: AuditClass
  /** Of a foreign thing none. */
  code: string | null
  /** What was done to it. */
  alteration: string | null
}

export interface PlantedScene {
  bytes: Uint8Array
  planted: PlantedThing[]
}

/** A scene in which every item of a library is used once, some as they were handed over, some altered, some in an older version. */
export async function makeAuditScene(library: AuditLibrary, seed: number): Promise<PlantedScene> {
  const random = createRandom(seed + 77)
  const scene = new SceneMaker(random)
  const byCode = new Map<string, LibraryVersion[]>()
  for (const v of library.versions) byCode.set(v.code, [...(byCode.get(v.code) ?? []), v])
  for (const versions of byCode.values()) {
    const used = versions[random.index(versions.length)]
    await scene.put(used.source, used, random.next() < 0.3)
  }
  for (const { source } of library.strangers) await scene.put(source, null, false)
  await scene.document.transform(unpartition())
  return { bytes: await writeGltfBinary(scene.document), planted: scene.planted }
}

class SceneMaker {
  readonly document = new Document()
  readonly planted: PlantedThing[] = []
  private readonly root = this.document.createScene('scene')
  private group: Node | null = null

  constructor(private readonly random: Random) {}

  async put(source: ItemSource, of: LibraryVersion | null, isAltered: boolean): Promise<void> {
    const { random } = this
    const key = `t${this.planted.length}`
    const stamp = { code: of?.code ?? 'none', version: of?.version ?? 1 }
    // Of a plain colour that was changed and lost stamp and name, nobody could say what it was.
    const isPlain = source.kind === 'material' && source.files.length === 0
    const keepsStamp = of !== null && (random.next() < 0.5 || (isPlain && isAltered))
    // Half of those that lost their stamp lost their name as well.
    const name =
      of !== null && (keepsStamp || random.next() < 0.5)
        ? `${key} ${of.code} ${source.name}`
        : `${key} shader ${random.index(1e5)}`
    let alteration: string | null = null
    if (source.kind === 'material') {
      const material = await this.mergeMaterial(source, stamp)
      if (isAltered) alteration = await this.alter(material)
      if (random.next() < 0.5) await passOn(material, random)
      material.setName(name).setExtras(keepsStamp ? { muscovite: stamp } : {})
      this.lay(name, material)
    } else if (source.kind === 'light') {
      const node = await makeLightNode(this.document, source)
      this.root.addChild(node)
      const isBulb = node.getExtension<Light>('KHR_lights_punctual')?.getType() === 'point'
      if (isAltered) alteration = this.choose(LIGHT_ALTERATIONS, node)
      // Dimmed, an older version gives what a newer one does: then its stamp must say it.
      const isDimmed = !isAltered && (keepsStamp || of?.version === of?.pinned) && random.next() < 0.5
      if (isDimmed) passLightOn(node, random)
      // Of a light with other figures that lost stamp and name, nobody could say what it was.
      const needsName = of !== null && !keepsStamp && (isAltered || isDimmed || isBulb)
      node.setName(needsName ? `${key} ${of.code}` : name).setExtras(keepsStamp ? { muscovite: stamp } : {})
    } else {
      const node = await this.mergeModel(source)
      if (isAltered) alteration = this.choose(MODEL_ALTERATIONS, node)
      if (random.next() < 0.5 && alteration === null) passModelOn(node, random)
      node.setName(name).setExtras(keepsStamp ? { muscovite: stamp } : {})
    }
    this.planted.push({
      key,
      kind: source.kind === 'model' || source.kind === 'light' ? source.kind : 'material',
      class: classOf(of, alteration),
      code: of?.code ?? null,
      alteration,
    })
  }

  private async mergeMaterial(source: ItemSource, stamp: { code: string; version: number }): Promise<Material> {
    const [{ bytes }] = await writeMaterialGlb(source, 'delivered', null, stamp)
    const delivered = await readGltfBinary(bytes)
    const map = mergeDocuments(this.document, delivered)
    const material = map.get(delivered.getRoot().listMaterials()[0]) as Material
    for (const scene of delivered.getRoot().listScenes()) (map.get(scene) as Node).dispose()
    return material
  }

  private async mergeModel(source: ItemSource): Promise<Node> {
    const delivered = await readGltfBinary(await readBytes(mainFile(source)))
    const map = mergeDocuments(this.document, delivered)
    const node = this.document.createNode()
    for (const scene of delivered.getRoot().listScenes()) {
      const merged = map.get(scene) as ReturnType<Document['createScene']>
      for (const child of merged.listChildren()) node.addChild(child)
      merged.dispose()
    }
    const yaw = this.random.between(0, Math.PI)
    node
      .setTranslation([this.random.between(-20, 20), 0, this.random.between(-20, 20)])
      .setRotation([0, Math.sin(yaw / 2), 0, Math.cos(yaw / 2)])
    this.groupFor().addChild(node)
    return node
  }

  /** Half of the things stand in groups of a few, as people arrange them. */
  private groupFor(): Node | Scene {
    const { random } = this
    if (random.next() < 0.5) return this.root
    if (!this.group || this.group.listChildren().length >= 2 + random.index(5)) {
      this.group = this.document.createNode(`group ${random.index(1000)}`).setTranslation([random.between(-3, 3), 0, 0])
      this.root.addChild(this.group)
    }
    return this.group
  }

  private async alter(material: Material): Promise<string> {
    const names = Object.keys(ALTERATIONS)
    for (;;) {
      const name = names[this.random.index(names.length)]
      if (await ALTERATIONS[name](this.document, material, this.random)) return name
    }
  }

  /** Does one of several things to a node, and says which. */
  private choose(alterations: Record<string, (node: Node, random: Random) => void>, node: Node): string {
    const names = Object.keys(alterations)
    const name = names[this.random.index(names.length)]
    alterations[name](node, this.random)
    return name
  }

  /** A square of floor with the material. */
  private lay(name: string, material: Material): void {
    if (this.document.getRoot().listBuffers().length === 0) this.document.createBuffer()
    const mesh = createSheet(
      1,
      1,
      (s, t) => [2 * s, 0, 2 * t],
      (s, t) => [s, t],
    )
    const primitive = createPrimitive(this.document, mesh).setMaterial(material)
    this.root.addChild(
      this.document.createNode(`floor of ${name}`).setMesh(this.document.createMesh(name).addPrimitive(primitive)),
    )
  }
}

function classOf(of: LibraryVersion | null, alteration: string | null): AuditClass {
  if (!of) return 'foreign'
  if (of.isWithdrawn) return 'withdrawn'
  if (alteration) return 'altered'
  return of.pinned === null ? 'other' : of.version === of.pinned ? 'pinned' : 'older'
}
