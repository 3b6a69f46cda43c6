import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CONTROL } from '../../../components/controls/control-look'
import { useAddFeedMutation, useListFeedsQuery } from '../../../state/api'
import { plural } from '../../../words/states'

/** Feeds that are read, what is new in each, and a line to add another. */
export function FeedList({ library, mayEdit }: { library: string; mayEdit: boolean }) {
  const { data: feeds } = useListFeedsQuery()
  const [url, setUrl] = useState('')
  const [add, { isLoading }] = useAddFeedMutation()
  const navigate = useNavigate()
  const submit = async () => {
    const result = await add({ url: url.trim(), library })
    if (!result.data) return tellProblem(result.error)
    setUrl('')
    navigate(`/intake/feeds/${result.data.id}`)
  }
  if (!feeds || (feeds.length === 0 && !mayEdit)) return null
  return (
    <section aria-labelledby="feeds" className="mt-6 flex flex-col gap-2">
      <h2 id="feeds" className="text-section">
        Feeds
      </h2>
      {feeds.length > 0 && (
        <ul className="border-t border-line">
          {feeds.map(feed => (
            <li key={feed.id} className="border-b border-line">
              <Link to={`/intake/feeds/${feed.id}`} className="block px-2 py-2.5 hover:bg-sheet">
                <span className="block truncate font-medium">{feed.title}</span>
                <span className="block text-xs text-quiet">
                  {plural(feed.offers, 'thing')} on offer, {feed.fresh} not taken yet
                  {feed.newer > 0 && <strong className="text-ink">, {feed.newer} with a newer version</strong>}
                  {feed.withdrawn > 0 && <strong className="text-ink">, {feed.withdrawn} of ours withdrawn</strong>}
                  {feed.problem && '. It did not answer the last time.'}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
      {mayEdit && (
        <form
          className="flex gap-2"
          onSubmit={event => {
            event.preventDefault()
            void submit()
          }}
        >
          <input
            type="url"
            required
            aria-label="Address of a supplier's feed"
            placeholder="https://supplier.example/feed"
            value={url}
            onChange={event => setUrl(event.target.value)}
            className={`${CONTROL} flex-1`}
          />
          <Button type="submit" disabled={isLoading || url.trim() === ''}>
            {isLoading ? 'Reading…' : 'Add the feed'}
          </Button>
        </form>
      )}
    </section>
  )
}
