import { PREVIEW_ASPECT } from '#core/render/rigs/rig'
import { widthsOf } from '#shared/picture-widths'

interface Props {
  url: string | null
  alt: string
  /** How far its rendering has come; undefined while it waits in line. */
  share?: number
  className?: string
}

/** A preview at the house aspect, or the empty mount while it is being rendered. Nothing ever lies over the picture. */
export function PreviewFrame({ url, alt, share, className = '' }: Props) {
  return (
    <div className={`relative w-full overflow-hidden bg-mount ${className}`} style={{ aspectRatio: PREVIEW_ASPECT }}>
      {url ? (
        <img
          src={url}
          srcSet={widthsOf(url)}
          sizes="auto"
          alt={alt}
          loading="lazy"
          decoding="async"
          draggable={false}
          className="size-full object-cover"
        />
      ) : (
        <div className="flex size-full flex-col items-center justify-center gap-2 px-1 text-center text-xs text-quiet">
          {share === undefined ? 'waiting to be rendered' : `rendering, ${Math.round(share * 100)} %`}
          {share !== undefined && (
            <div className="h-1 w-1/2 overflow-hidden rounded-full bg-line">
              <div className="h-full bg-ink" style={{ width: `${share * 100}%` }} />
            </div>
          )}
        </div>
      )}
    </div>
  )
}
