import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { type OpenedItem, type OpenedSizes, openMockUpItem } from './open-item'

/** Opens items for the live view. */
export interface ItemCommand {
  key: string
  item: MockUpItem
  sizes: OpenedSizes
}
export interface ItemNews {
  key: string
  /** Null where it does not open. */
  opened: OpenedItem<ImageBitmap> | null
}

const LARGEST_TEXTURE = 1024

async function toBitmap(blob: Blob): Promise<ImageBitmap> {
  const bitmap = await createImageBitmap(blob, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' })
  const scale = Math.min(1, LARGEST_TEXTURE / Math.max(bitmap.width, bitmap.height))
  if (scale === 1) return bitmap
  const [resizeWidth, resizeHeight] = [bitmap.width, bitmap.height].map(side => Math.max(1, Math.round(side * scale)))
  const small = await createImageBitmap(bitmap, { resizeWidth, resizeHeight, resizeQuality: 'high' })
  bitmap.close()
  return small
}

self.onmessage = async ({ data: { key, item, sizes } }: MessageEvent<ItemCommand>) => {
  let opened: OpenedItem<ImageBitmap> | null = null
  try {
    opened = await openMockUpItem(item, toBitmap, sizes)
  } catch {
    // The page says that it could not be opened.
  }
  self.postMessage({ key, opened } satisfies ItemNews, { transfer: opened ? buffersOf(opened) : [] })
}

function buffersOf(opened: OpenedItem<ImageBitmap>): Transferable[] {
  switch (opened.kind) {
    case 'sky':
      return [opened.map.data.buffer as ArrayBuffer]
    case 'material':
      return [...new Set(opened.look.images)]
    case 'model':
      return [
        ...new Set([
          ...opened.parts.flatMap(({ mesh }) =>
            [mesh.positions, mesh.normals, mesh.uvs, mesh.indices].map(a => a.buffer as ArrayBuffer),
          ),
          ...opened.parts.flatMap(p => p.images),
        ]),
      ]
    case 'light':
      return []
    default:
      return opened satisfies never
  }
}
