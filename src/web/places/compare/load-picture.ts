import { parseExr } from '#core/codecs/exr'
import { SRGB_TO_LINEAR } from '#core/color/srgb'
import { type ByteImage, createFloatImage, type FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import type { Preview } from '#shared/contracts/items.contract'

/** A picture in both terms. */
export interface Picture {
  linear: FloatImage
  display: ByteImage
  /** The linear values are the renderer's own; else they are worked back from the display picture, without its tone curve. */
  isExact: boolean
}

const known = new Map<string, Promise<Picture>>()

/** Where a picture is, encoded for display and linear. */
export type Addressed = Pick<Preview, 'url' | 'linearUrl'>

/** Fetched once for each address. */
export function loadPicture(preview: Addressed): Promise<Picture> {
  const url = preview.linearUrl ?? preview.url
  let loading = known.get(url)
  if (!loading) {
    loading = preview.linearUrl ? loadLinear(preview.linearUrl) : loadDisplay(preview.url)
    known.set(url, loading)
    loading.catch(() => known.delete(url))
  }
  return loading
}

async function loadLinear(url: string): Promise<Picture> {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`picture answered ${response.status}`)
  const linear = parseExr(new Uint8Array(await response.arrayBuffer()))
  return { linear, display: developForDisplay(linear), isExact: true }
}

async function loadDisplay(url: string): Promise<Picture> {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`picture answered ${response.status}`)
  const bitmap = await createImageBitmap(await response.blob())
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
  const context = canvas.getContext('2d')!
  context.drawImage(bitmap, 0, 0)
  const { data, width, height } = context.getImageData(0, 0, bitmap.width, bitmap.height)
  const display: ByteImage = { width, height, channels: 3, data: new Uint8Array(width * height * 3) }
  const linear = createFloatImage(width, height, 3)
  for (let p = 0; p < width * height; p++)
    for (let k = 0; k < 3; k++) {
      display.data[p * 3 + k] = data[p * 4 + k]
      linear.data[p * 3 + k] = SRGB_TO_LINEAR[data[p * 4 + k]]
    }
  return { linear, display, isExact: false }
}
