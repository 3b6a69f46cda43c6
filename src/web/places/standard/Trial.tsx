import { toast } from 'sonner'
import type { Proposal } from '#shared/contracts/rigs.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useAdoptProposalMutation, useDiscardProposalMutation } from '../../state/api'
import { plural } from '../../words/states'

interface Props {
  proposal: Proposal
  mayEdit: boolean
  title: string
}

/** A change that is being tried: three items before and after, what it costs, and the decision. */
export function Trial({ proposal, mayEdit, title }: Props) {
  const [adopt, adopting] = useAdoptProposalMutation()
  const [discard, discarding] = useDiscardProposalMutation()
  const { samples, stake } = proposal
  const missing = samples.filter(s => s.after === null || s.before === null).length
  const busy = adopting.isLoading || discarding.isLoading
  const onAdopt = async () => {
    const result = await adopt({ id: proposal.id })
    if (result.error) tellProblem(result.error)
    else
      toast(
        result.data?.rerenderId
          ? 'Adopted. Pictures are rendered anew in the background; the wall keeps the old ones until then.'
          : 'Adopted. Every picture is of this rig already.',
      )
  }
  const onDiscard = async () => {
    const result = await discard({ id: proposal.id })
    if (result.error) tellProblem(result.error)
    else toast('Discarded. Nothing was changed.')
  }
  return (
    <div data-trial={proposal.id}>
      <h2 className="text-section">{title}</h2>
      <p className="mb-3 text-xs text-quiet">
        At stake: <span className="figures">{plural(stake.previews, 'picture')}</span>, about{' '}
        <span className="figures">{stake.minutes < 1 ? 'a minute' : plural(Math.round(stake.minutes), 'minute')}</span> of
        rendering in the background. Tried by {proposal.by}.
      </p>
      {samples.length === 0 ? (
        <p className="mb-3">No item stands on this rig yet, so there is nothing to compare.</p>
      ) : (
        <table className="mb-3 w-full table-fixed border-separate border-spacing-2">
          <thead>
            <tr className="text-left text-xs text-quiet [&>th]:font-normal">
              <th className="w-20" />
              {samples.map(s => (
                <th key={s.code} className="truncate">
                  {s.name}, <span className="figures">{s.code}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(['before', 'after'] as const).map(when => (
              <tr key={when}>
                <th className="align-top text-xs font-normal text-quiet">{when}</th>
                {samples.map(s => (
                  <td key={s.code}>
                    <PreviewFrame url={s[when]} alt={`${s.name} ${when} the change`} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayEdit && (
        <div className="flex items-center gap-2">
          <Button variant="next" onClick={onAdopt} disabled={busy}>
            Adopt
          </Button>
          <Button onClick={onDiscard} disabled={busy}>
            Discard
          </Button>
          {missing > 0 && (
            <span role="status" className="text-xs text-quiet">
              {plural(missing, 'sample')} being rendered
            </span>
          )}
        </div>
      )}
    </div>
  )
}
