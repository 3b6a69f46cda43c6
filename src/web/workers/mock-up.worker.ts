import type { ByteImage, FloatImage } from '#core/image/image'
import { StandingScene } from '#core/mock-up/composing/standing-scene'
import type { Scene, Shot } from '#core/mock-up/scene/scene'
import type { Look, ResourcePart, Resources } from '#core/mock-up/things/resources'
import type { CandelaWeb } from '#core/photometry/candela-web'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { type OpenedSizes, openMockUpItem } from './open-item'
import { readPixels } from './read-pixels'
import { type TracingCommand, TracingLoop, type TracingNews } from './tracing-loop'

/** Items as they come into the scene; then a start for every look at it. */
export type MockUpCommand =
  | { kind: 'items'; items: MockUpItem[] }
  | {
      kind: 'start'
      run: number
      scene: Scene
      shot: Shot
      width: number
      maxSamples: number
      noiseTarget: number
      /** Learns first where light comes from, which takes a moment and pays where much is traced. */
      guided: boolean
      part: { index: number; count: number }
    }
  | TracingCommand

/** A scene could not be traced: it is more than the browser has memory for, say. */
export type MockUpNews = TracingNews | { kind: 'failed'; run: number }

const SIZES: OpenedSizes = { mapPx: 1024, skyPx: 2048 }

const loop = new TracingLoop(say)
const standing = new StandingScene()
const models = new Map<string, ResourcePart[]>()
const materials = new Map<string, Look>()
const skies = new Map<string, FloatImage>()
const webs = new Map<string, CandelaWeb>()
let resources: Resources = { models, materials, skies, webs }
const opening = new Map<string, Promise<void>>()
/** The run that was asked for last: what waits for its items starts only if nothing came after it. */
let wanted = 0

self.onmessage = ({ data }: MessageEvent<MockUpCommand>) => {
  switch (data.kind) {
    case 'items':
      for (const item of data.items) if (!opening.has(item.ref.inputKey)) opening.set(item.ref.inputKey, open(item))
      return
    case 'start':
      wanted = data.run
      void start(data)
      return
    default:
      if (data.kind === 'stop') wanted = 0
      loop.hear(data)
  }
}

async function open(item: MockUpItem): Promise<void> {
  const key = item.ref.inputKey
  try {
    const opened = await openMockUpItem<ByteImage>(item, readPixels, SIZES)
    if (opened?.kind === 'model') models.set(key, opened.parts)
    else if (opened?.kind === 'material') materials.set(key, opened.look)
    else if (opened?.kind === 'sky') skies.set(key, opened.map)
    else if (opened?.kind === 'light') webs.set(key, opened.web)
    // Another object, so that whoever keeps what was built of it knows that there is more.
    resources = { models, materials, skies, webs }
  } catch {
    // It is left out of the picture; the page says so.
  }
}

async function start({
  run,
  scene,
  shot,
  width,
  maxSamples,
  noiseTarget,
  guided,
  part,
}: MockUpCommand & { kind: 'start' }): Promise<void> {
  await Promise.all(opening.values())
  if (wanted !== run) return
  try {
    const settings = { width, seed: 1, maxSamples, noiseTarget, guided, denoised: true }
    loop.begin(run, standing.start(scene, shot, resources, settings, part))
  } catch {
    say({ kind: 'failed', run })
  }
}

function say(news: MockUpNews, transfer: Transferable[] = []): void {
  self.postMessage(news, { transfer })
}
