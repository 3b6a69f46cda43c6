import { PictureLayer } from './PictureStage'
import type { Loaded } from './use-pictures'
import type { View } from './view-state'

/** What the pictures of a comparison are called. */
export const LETTERS = 'ABCDEF'

/** A picture, or why there is none yet. */
export function LoadedLayer({ loaded, view, clip }: { loaded: Loaded; view: View; clip?: string }) {
  if (loaded.state === 'there') return <PictureLayer image={loaded.image} view={view} clip={clip} />
  return (
    <p
      className="absolute inset-0 flex items-center justify-center px-4 text-center text-xs text-quiet"
      style={{ clipPath: clip }}
    >
      {loaded.state === 'failed'
        ? 'This picture did not arrive. Reload the page to try again.'
        : 'being rendered; it appears here when it is done'}
    </p>
  )
}
