import { formatDistanceToNow } from 'date-fns'
import { X } from 'lucide-react'
import { Link } from 'react-router'
import type { FacetValue } from '#shared/contracts/find.contract'
import { tellProblem } from '../../../components/bulk-words'
import { useForgetDeskMutation, useGetPersonalQuery } from '../../../state/api'
import type { WallAddress } from '../wall-address'
import { TermBlock } from './TermBlock'

interface Props {
  values: readonly FacetValue[] | undefined
  address: WallAddress
  onChange: (text: string) => void
}

/** How things lie on one's own machines; unknown before one of them has told. */
export function DeskBlock({ values, address, onChange }: Props) {
  const { data } = useGetPersonalQuery()
  const [forget] = useForgetDeskMutation()
  const desks = data?.desks ?? []
  const forgetIt = async (id: number) => {
    const result = await forget({ id })
    if (result.error) tellProblem(result.error)
  }
  if (desks.length === 0 && !values)
    return (
      <fieldset className="mb-4 min-w-0 break-inside-avoid">
        <legend className="mb-1 text-xs text-quiet">On my desk</legend>
        <p>unknown</p>
        <p className="text-xs text-quiet">
          No desk of mine has told yet. Check a folder under{' '}
          <Link to="/projects/check" className="underline hover:text-ink">
            hand-overs
          </Link>
          , or run <code className="figures">muscovite desk FOLDER</code> there.
        </p>
      </fieldset>
    )
  return (
    <div className="mb-4 break-inside-avoid">
      {values && (
        <div className="-mb-3">
          <TermBlock facet="desk" title="On my desk" values={values} more={undefined} address={address} onChange={onChange} />
        </div>
      )}
      {desks.map(({ id, name, reportedAt }) => (
        <p key={id} className="flex items-center gap-1 text-xs text-quiet">
          <span className="min-w-0 truncate" title={name}>
            {name}, {formatDistanceToNow(new Date(reportedAt))} ago
          </span>
          <button
            type="button"
            aria-label={`Forget what lies on ${name}`}
            title="Forget it"
            className="shrink-0 rounded-sm hover:text-ink"
            onClick={() => void forgetIt(id)}
          >
            <X aria-hidden className="size-3" />
          </button>
        </p>
      ))}
    </div>
  )
}
