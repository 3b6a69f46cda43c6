import { format } from 'date-fns'
import { Download, X } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { PICTURE_FORMATS } from '#shared/contracts/compare.contract'
import type { MockUpPicture } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CheckBox } from '../../../components/controls/CheckBox'
import { ToolMenu, ToolMenuEntry } from '../../../components/controls/ToolMenu'
import { download } from '../../../components/save-blob'
import { useCancelMockUpPictureMutation } from '../../../state/api'
import { FORMAT_WORDS } from '../../../words/rigs'
import { captionOf, sayTime } from './caption'
import { PictureView } from './PictureView'
import { UnderWay, UnderWayView } from './UnderWay'

const MOST_PAGES = 40

/** Renderings of the mock-up, the newest first: how far they are, looked at, two of them compared, saved. */
export function PicturesPanel({ mockUpId, pictures }: { mockUpId: number; pictures: readonly MockUpPicture[] }) {
  const [marked, setMarked] = useState<readonly number[]>([])
  const [open, setOpen] = useState<readonly number[] | null>(null)
  const [cancel] = useCancelMockUpPictureMutation()
  const drop = async (picture: number) => {
    const result = await cancel({ id: mockUpId, picture })
    if (result.error) tellProblem(result.error)
  }
  const ready = pictures.filter(p => p.url).map(p => p.id)
  const printable = marked.length > 0 ? marked : ready.slice(0, MOST_PAGES)
  const shown = open?.flatMap(id => pictures.find(p => p.id === id) ?? []) ?? []
  // Opened while it is made, it becomes the picture itself when that is there.
  const underWay = shown.find(p => !p.url)
  if (pictures.length === 0)
    return <p className="text-quiet">Nothing is rendered yet. Take a shot and order a draft of it: it is there in seconds.</p>
  return (
    <>
      <div className="mb-3 flex h-8 items-center gap-2">
        <span className="text-xs text-quiet">{marked.length === 0 ? 'Mark two to compare.' : `${marked.length} marked`}</span>
        <Button
          className="ml-auto"
          title="The marked pictures, or all, each on a page, with what is in them"
          disabled={printable.length === 0}
          onClick={() => window.location.assign(`/api/mock-ups/${mockUpId}/pages?pictures=${printable.join(',')}`)}
        >
          PDF
        </Button>
        <Button disabled={marked.length !== 2} onClick={() => setOpen(marked)}>
          Compare
        </Button>
      </div>
      <ul className="grid grid-cols-1 gap-4">
        {pictures.map(p => (
          <li key={p.id}>
            {p.url ? (
              <button
                type="button"
                onClick={() => setOpen([p.id])}
                aria-label={`Look at ${captionOf(p)}`}
                className="block w-full"
              >
                <img src={p.url} alt={captionOf(p)} loading="lazy" className="w-full bg-mount" />
              </button>
            ) : (
              <UnderWay picture={p} onOpen={() => setOpen([p.id])} />
            )}
            <div className="mt-1 flex items-start gap-2">
              {p.url && (
                <CheckBox
                  label={`Mark ${captionOf(p)}`}
                  isLabelHidden
                  checked={marked.includes(p.id)}
                  onChange={on => setMarked(on ? [...marked, p.id] : marked.filter(id => id !== p.id))}
                  className="mt-0.5"
                />
              )}
              <span className="min-w-0 flex-1">
                <span className="line-clamp-2" title={captionOf(p)}>
                  {captionOf(p)}
                </span>
                <span className="figures block truncate text-2xs text-quiet">
                  {p.width && `${p.width} × ${p.height}  `}
                  {p.seconds !== null && `${sayTime(p.seconds)}  `}
                  {p.person.split(' ')[0]}, {format(new Date(p.orderedAt), 'd MMM HH:mm')}
                </span>
                {p.message && <span className="block text-xs font-medium">{p.message}</span>}
              </span>
              {p.url && (
                <ToolMenu icon={Download} label="Save">
                  {PICTURE_FORMATS.map(form => (
                    <ToolMenuEntry key={form} onClick={() => window.location.assign(`${p.url}/save?format=${form}`)}>
                      {FORMAT_WORDS[form].join(', ')}
                    </ToolMenuEntry>
                  ))}
                  <ToolMenuEntry onClick={() => void savePasses(p)}>OpenEXR with passes and masks, linear</ToolMenuEntry>
                </ToolMenu>
              )}
              <button
                type="button"
                aria-label={p.url ? `Take ${captionOf(p)} away` : `Stop ${captionOf(p)}`}
                title={p.url ? 'Take the picture away' : 'Stop it'}
                onClick={() => drop(p.id)}
                className="flex size-8 items-center justify-center rounded-sm text-quiet hover:bg-mount hover:text-ink"
              >
                <X aria-hidden className="size-4" />
              </button>
            </div>
          </li>
        ))}
      </ul>
      {underWay && <UnderWayView picture={underWay} onClose={() => setOpen(null)} />}
      {shown.length > 0 && !underWay && <PictureView pictures={shown} onClose={() => setOpen(null)} />}
    </>
  )
}

/** Worked out when they are asked for: as long as a few seconds to a minute. */
async function savePasses(picture: MockUpPicture): Promise<void> {
  const waiting = toast.loading(`Working out the passes of ${captionOf(picture)}`)
  const problem = await download(`${picture.url}/passes`)
  toast.dismiss(waiting)
  if (problem) tellProblem(problem)
}
