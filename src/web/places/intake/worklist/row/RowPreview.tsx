import type { BatchItem } from '#shared/contracts/intake.contract'
import { PreviewFrame } from '../../../../components/PreviewFrame'
import { useAppSelector } from '../../../../state/hooks'

/** The rendered preview; until there is one, the base colour map itself says which row this is. */
export function RowPreview({ item }: { item: BatchItem }) {
  const map = item.files.find(f => f.role === 'baseColor')
  if (item.state === 'failed' && !item.preview) return <NoPicture>no picture</NoPicture>
  if (item.preview || !item.needsWidth) return <RenderedPreview item={item} />
  return map ? (
    <img
      src={map.url}
      alt=""
      loading="lazy"
      className="aspect-[4/3] w-full object-cover"
      title="The base colour map; it is rendered when its width is known"
    />
  ) : (
    <NoPicture>needs its width</NoPicture>
  )
}

const NoPicture = ({ children }: { children: string }) => (
  <div className="flex aspect-[4/3] w-full items-center justify-center bg-mount px-2 text-center text-2xs text-quiet">
    {children}
  </div>
)

function RenderedPreview({ item }: { item: BatchItem }) {
  const share = useAppSelector(s => s.live.byInput[item.inputKey])
  return <PreviewFrame url={item.preview} alt="" share={share} />
}
