import { Dialog, DialogPanel } from '@headlessui/react'
import { ChevronLeft, ChevronRight, X } from 'lucide-react'
import { useEffect } from 'react'
import { type Location, useLocation, useNavigate, useParams, useSearchParams } from 'react-router'
import { Button } from '../../components/controls/Button'
import { Skeleton, Trouble } from '../../components/Notice'
import { useKey } from '../../components/use-key'
import { useCountViewMutation, useGetSheetQuery } from '../../state/api'
import { SheetView } from './SheetView'

/** An item's sheet over the place it was reached from, with an address of its own. */
export default function SheetOverlay({ behind }: { behind: Location }) {
  const { code = '' } = useParams()
  const [params] = useSearchParams()
  const version = params.get('version') ? Number(params.get('version')) : undefined
  const location = useLocation()
  const navigate = useNavigate()
  const neighbours = (location.state as { neighbours?: string[] } | null)?.neighbours ?? []
  const { data, error, refetch } = useGetSheetQuery({ code, version })
  const [countView] = useCountViewMutation()
  const isIt = data !== undefined && (data.code === code || data.formerCodes.includes(code))
  const shownId = isIt ? data.id : null
  const newCode = isIt && data.code !== code ? data.code : null
  // It went into another library: its address goes with it.
  useEffect(() => {
    if (newCode) navigate(`/items/${newCode}`, { state: location.state, replace: true })
  }, [newCode, navigate, location.state])
  // Once for each time that somebody opens it, and not for every reading anew.
  useEffect(() => {
    if (shownId !== null) void countView({ id: shownId })
  }, [shownId, countView])
  const at = neighbours.indexOf(code)
  const close = () => navigate({ pathname: behind.pathname, search: behind.search })
  const step = (by: number) => {
    const next = at >= 0 ? neighbours[at + by] : undefined
    if (next) navigate(`/items/${next}`, { state: location.state, replace: true })
  }
  useKey('j', () => step(1))
  useKey('k', () => step(-1))
  return (
    <Dialog open onClose={close} className="relative z-40" aria-label={data?.name ?? code}>
      <div className="fixed inset-0 bg-black/35" aria-hidden />
      <div className="fixed inset-0 flex justify-center p-5">
        <DialogPanel className="flex h-full w-full max-w-[84rem] flex-col overflow-hidden rounded-sm bg-sheet shadow-2xl">
          <div className="flex shrink-0 items-center gap-1 px-3 pt-2">
            <Button variant="bare" disabled={at <= 0} onClick={() => step(-1)} title="Item before (K)" aria-label="Item before">
              <ChevronLeft aria-hidden className="size-4" />
            </Button>
            <Button
              variant="bare"
              disabled={at < 0 || at >= neighbours.length - 1}
              onClick={() => step(1)}
              title="Next item (J)"
              aria-label="Next item"
            >
              <ChevronRight aria-hidden className="size-4" />
            </Button>
            <Button variant="bare" className="ml-auto" onClick={close} title="Close (Esc)" aria-label="Close">
              <X aria-hidden className="size-4" />
            </Button>
          </div>
          <div className="min-h-0 flex-1 overflow-auto px-6 pb-6">
            {error && !data ? (
              <Trouble error={error} onRetry={refetch} />
            ) : !data || !isIt ? (
              <div className="grid grid-cols-[minmax(0,48rem)_minmax(25rem,1fr)] gap-8">
                <Skeleton className="aspect-[4/3]" />
                <Skeleton className="h-96" />
              </div>
            ) : (
              <SheetView sheet={data} />
            )}
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  )
}
