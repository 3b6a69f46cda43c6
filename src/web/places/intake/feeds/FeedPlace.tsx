import { formatDistanceToNow } from 'date-fns'
import { useEffect, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import type { Feed, OfferState, OfferView } from '#shared/contracts/feed.contract'
import { formatBytes } from '#shared/units'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CheckBox } from '../../../components/controls/CheckBox'
import { Choice } from '../../../components/controls/Choice'
import { CONTROL } from '../../../components/controls/control-look'
import { EmptyState, Skeleton, Trouble } from '../../../components/Notice'
import { PageHead } from '../../../components/Page'
import { useGetFeedQuery, useRefreshFeedMutation, useRemoveFeedMutation, useTakeFromFeedMutation } from '../../../state/api'
import { plural } from '../../../words/states'

const STATE_WORDS: Record<OfferState, string> = {
  new: 'not taken yet',
  taken: 'taken',
  newer: 'newer version',
  withdrawn: 'withdrawn',
}
const GRID = 'grid grid-cols-[1.5rem_4rem_minmax(0,1fr)_11rem_9rem_8rem_10rem] items-center gap-x-4'

/** What a supplier offers, what of it is in the library, and what is new. */
export function FeedPlace() {
  const id = Number(useParams().id)
  const { data: feed, error, refetch } = useGetFeedQuery({ id }, { skip: !Number.isInteger(id) })
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!feed)
    return (
      <div className="px-6 py-5">
        <Skeleton className="h-96" />
      </div>
    )
  return <OfferList key={feed.id} feed={feed} />
}

function OfferList({ feed }: { feed: Feed }) {
  const [words, setWords] = useState('')
  const [state, setState] = useState<OfferState | 'all'>('all')
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const [take, { isLoading: isTaking }] = useTakeFromFeedMutation()
  const [remove] = useRemoveFeedMutation()
  const [read, { isLoading: isReading }] = useRefreshFeedMutation()
  const navigate = useNavigate()
  // An offer is only as good as it is fresh: it is read again whenever somebody comes to look.
  useEffect(() => {
    void read({ id: feed.id })
  }, [read, feed.id])
  const shown = useMemo(() => {
    const terms = words.toLowerCase().split(/\s+/).filter(Boolean)
    return feed.items.filter(item => {
      const text = [item.title, item.category, ...item.tags].join(' ').toLowerCase()
      return (state === 'all' || item.state === state) && terms.every(term => text.includes(term))
    })
  }, [feed.items, words, state])
  const open = shown.filter(i => i.state === 'new' || i.state === 'newer')
  const takeable = feed.items.filter(i => chosen.has(i.id) && i.state !== 'withdrawn')
  const toggle = (id: string) => {
    const next = new Set(chosen)
    if (!next.delete(id)) next.add(id)
    setChosen(next)
  }
  const takeChosen = async () => {
    const result = await take({ id: feed.id, ids: takeable.map(i => i.id) })
    if (!result.data) return tellProblem(result.error)
    navigate(`/intake/${result.data.id}`)
  }
  const stop = async () => {
    const result = await remove({ id: feed.id })
    if (result.error) return tellProblem(result.error)
    toast(`${feed.title} is no longer read. What was taken from it stays.`)
    navigate('/intake')
  }
  return (
    <div className="flex h-full flex-col">
      <PageHead
        className="px-6 pt-4 pb-3"
        from={{ to: '/intake', text: 'Intake' }}
        title={feed.title}
        facts={`feed for ${feed.library}${feed.licence ? ` · ${feed.licence}` : ''}`}
        actions={
          <>
            <span className="text-xs text-quiet" role="status">
              {isReading
                ? 'Reading the offer…'
                : feed.readAt && `read ${formatDistanceToNow(new Date(feed.readAt), { addSuffix: true })}`}
            </span>
            <Button onClick={() => read({ id: feed.id })} disabled={isReading}>
              Read again
            </Button>
            {feed.mayEdit && (
              <Button variant="bare" onClick={stop}>
                Stop reading it
              </Button>
            )}
          </>
        }
      />
      {feed.problem && (
        <p role="alert" className="mx-6 mb-3 rounded-sm bg-sheet px-4 py-3">
          {feed.problem} What you see is the offer as it was read last.
        </p>
      )}
      <div className="flex shrink-0 items-center gap-3 border-b border-line px-6 pb-3">
        <input
          aria-label="Search the offer"
          placeholder="Search the offer"
          value={words}
          onChange={event => setWords(event.target.value)}
          className={`${CONTROL} w-64`}
        />
        <Choice
          label="Show"
          value={state}
          onChange={setState}
          options={[
            { value: 'all', text: 'all', count: feed.items.length },
            ...(Object.keys(STATE_WORDS) as OfferState[]).map(s => ({
              value: s,
              text: STATE_WORDS[s],
              count: feed.items.filter(i => i.state === s).length,
            })),
          ]}
        />
        {feed.mayEdit && open.length > 0 && (
          <Button onClick={() => setChosen(new Set([...chosen, ...open.map(i => i.id)]))}>
            Choose all {open.length} that are new or newer
          </Button>
        )}
        {feed.mayEdit && (
          <Button variant="next" className="ml-auto" disabled={takeable.length === 0 || isTaking} onClick={takeChosen}>
            Take {takeable.length > 0 ? plural(takeable.length, 'thing') : 'what is chosen'} in
            {takeable.length > 0 && `, ${formatBytes(takeable.reduce((sum, i) => sum + i.bytes, 0))}`}
          </Button>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-auto px-6 pb-6">
        <div className={`${GRID} sticky top-0 border-b border-line bg-surround py-2 text-xs text-quiet`}>
          <span />
          <span />
          <span>On offer</span>
          <span>Their category</span>
          <span>Version</span>
          <span>Size</span>
          <span>Here</span>
        </div>
        {shown.length === 0 && (
          <EmptyState title="Nothing of that kind is on offer.">Change the words or the selection above.</EmptyState>
        )}
        <ul>
          {shown.map(item => (
            <OfferLine
              key={item.id}
              item={item}
              isChosen={chosen.has(item.id)}
              onToggle={feed.mayEdit && item.state !== 'withdrawn' ? () => toggle(item.id) : null}
            />
          ))}
        </ul>
      </div>
    </div>
  )
}

function OfferLine({ item, isChosen, onToggle }: { item: OfferView; isChosen: boolean; onToggle: (() => void) | null }) {
  return (
    <li className={`${GRID} border-b border-line/60 py-1.5 ${isChosen ? 'bg-sheet' : ''}`}>
      <span>{onToggle && <CheckBox label={`Choose ${item.title}`} isLabelHidden checked={isChosen} onChange={onToggle} />}</span>
      <OfferPicture url={item.picture} />
      <span className="min-w-0">
        <span className="block truncate font-medium">{item.title}</span>
        <span className="block truncate text-xs text-quiet">
          {item.kind}
          {item.tags.length > 0 && `, ${item.tags.join(', ')}`}
          {item.note && `. ${item.note}`}
        </span>
      </span>
      <span className="truncate text-quiet">{item.category}</span>
      <span className="text-xs text-quiet">
        <span className="figures">{item.version}</span>
        {item.released && `, ${item.released}`}
      </span>
      <span className="figures text-xs text-quiet">
        {plural(item.files, 'file')}, {formatBytes(item.bytes)}
      </span>
      <span>
        <span className={item.state === 'newer' || item.state === 'withdrawn' ? 'font-medium' : 'text-quiet'}>
          {STATE_WORDS[item.state]}
          {item.state === 'newer' && ` than ${item.takenVersion}`}
        </span>
        <span className="block text-xs text-quiet">
          {item.codes.map(code => (
            <Link key={code} to={`/items/${code}`} className="figures mr-2 hover:underline">
              {code}
            </Link>
          ))}
          {item.codes.length === 0 && item.batchId !== null && (
            <Link to={`/intake/${item.batchId}`} className="hover:underline">
              in its batch
            </Link>
          )}
        </span>
      </span>
    </li>
  )
}

/** The supplier's own picture, or an empty mount where they show none now. */
function OfferPicture({ url }: { url: string | null }) {
  const [isGone, setGone] = useState(false)
  return url && !isGone ? (
    <img
      src={url}
      alt=""
      loading="lazy"
      decoding="async"
      onError={() => setGone(true)}
      className="aspect-[4/3] w-16 bg-mount object-cover"
    />
  ) : (
    <span className="aspect-[4/3] w-16 bg-line/30" />
  )
}
