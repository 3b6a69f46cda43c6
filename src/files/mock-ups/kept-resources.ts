import type { ByteImage } from '#core/image/image'
import { KeptScene } from '#core/mock-up/composing/kept-scene'
import type { KeptForShots } from '#core/mock-up/composing/render-shot'
import type { Resources } from '#core/mock-up/things/resources'
import type { MipCache } from '#core/render/scene/scene'
import type { ItemSource } from '../items/item-source'
import { openResources, type ResourceSizes } from './open-resources'

export interface OpenedMockUp {
  resources: Resources
  /** By the keys of what does not read, why. */
  failures: Record<string, string>
  /** What is made of them while they are rendered. */
  kept: KeptForShots
}

/**
 * What the last picture of a mock-up was made of, for the next one: its other shots, or the same after an edit, open only what is new, and build
 * only what has changed. It holds the items of one picture, and lets them go some time after that is made.
 */
export class KeptResources {
  private opened: Resources = nothing()
  /** By the keys of what is open, from what and how large. */
  private signs = new Map<string, string>()
  private mips: MipCache = new Map()
  private readonly scene = new KeptScene()
  private timer: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly keepMs: number) {}

  async open(sources: Readonly<Record<string, ItemSource>>, sizes: ResourceSizes): Promise<OpenedMockUp> {
    const signs = new Map(Object.entries(sources).map(([key, source]) => [key, JSON.stringify([sizes, source])]))
    const isKept = (key: string) => this.signs.get(key) === signs.get(key)
    const fresh = Object.fromEntries(Object.entries(sources).filter(([key]) => !isKept(key)))
    // What is not shown any more goes before more is opened.
    const kept = only(this.opened, key => signs.has(key) && isKept(key))
    const before = this.mips
    this.forgetItems()
    const { resources, failures } = await openResources(fresh, sizes)
    const opened = join(kept, resources)
    const shown = imagesOf(opened)
    const mips: MipCache = new Map([...before].filter(([image]) => shown.has(image)))
    this.opened = opened
    this.mips = mips
    // What did not read is tried again.
    this.signs = new Map([...signs].filter(([key]) => !Object.hasOwn(failures, key)))
    return { resources: opened, failures, kept: { mips, scene: this.scene } }
  }

  letGo(): void {
    this.forgetItems()
    this.scene.letGo()
  }

  private forgetItems(): void {
    clearTimeout(this.timer)
    this.opened = nothing()
    this.signs = new Map()
    this.mips = new Map()
  }

  /** The picture is made: from now on it is kept for the next one only. */
  letGoLater(): void {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => this.letGo(), this.keepMs)
    this.timer.unref()
  }
}

const nothing = (): Resources => ({ models: new Map(), materials: new Map(), skies: new Map(), webs: new Map() })

const only = ({ models, materials, skies, webs }: Resources, isKept: (key: string) => boolean): Resources => {
  const of = <T>(all: ReadonlyMap<string, T>) => new Map([...all].filter(([key]) => isKept(key)))
  return { models: of(models), materials: of(materials), skies: of(skies), webs: of(webs) }
}

const join = (a: Resources, b: Resources): Resources => ({
  models: new Map([...a.models, ...b.models]),
  materials: new Map([...a.materials, ...b.materials]),
  skies: new Map([...a.skies, ...b.skies]),
  webs: new Map([...a.webs, ...b.webs]),
})

const imagesOf = ({ models, materials }: Resources): Set<ByteImage> =>
  new Set([...[...models.values()].flat(), ...materials.values()].flatMap(look => look.images))
