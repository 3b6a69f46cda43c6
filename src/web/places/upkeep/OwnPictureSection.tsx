import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { Trouble } from '../../components/Notice'
import { useListOwnPicturesQuery, useSetOwnPicturesMutation } from '../../state/api'
import { describeScore } from '../../words/pictures'
import { plural } from '../../words/states'

/** Pictures that stand in the place of the rigs', the worst first; the rigs' can be put back for many at once. */
export function OwnPictureSection({ mayEdit }: { mayEdit: boolean }) {
  const { data, error, refetch } = useListOwnPicturesQuery()
  const [set, { isLoading }] = useSetOwnPicturesMutation()
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set())
  const location = useLocation()
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!data || data.length === 0) return null
  const ids = data.map(p => p.id).filter(id => chosen.has(id))
  const faulty = data.filter(p => p.faults.length > 0).map(p => p.id)
  const toggle = (id: number) => setChosen(old => (old.has(id) ? new Set([...old].filter(k => k !== id)) : new Set([...old, id])))
  const onReplace = async () => {
    const result = await set({ ids, isDropped: true })
    if (result.error) return tellProblem(result.error)
    setChosen(new Set())
    toast(`${plural(ids.length, 'item')} ${ids.length === 1 ? 'shows' : 'show'} the rig's picture again.`, {
      action: { label: 'Undo', onClick: () => set({ ids, isDropped: false }) },
    })
  }
  return (
    <section aria-label="Pictures of their own">
      <h2 className="mb-1 text-section">Pictures of their own</h2>
      <p className="mb-2 flex min-h-8 flex-wrap items-center gap-3 text-quiet">
        {plural(data.length, 'item')} {data.length === 1 ? 'shows' : 'show'} another picture than the rig's.
        {mayEdit && faulty.length > 0 && (
          <Button variant="bare" onClick={() => setChosen(new Set(faulty))}>
            Choose those with faults, {faulty.length}
          </Button>
        )}
        {mayEdit && ids.length > 0 && (
          <Button onClick={onReplace} disabled={isLoading}>
            Show the rig&apos;s {ids.length === 1 ? 'picture' : `${ids.length} pictures`} instead
          </Button>
        )}
      </p>
      <table className="w-full border-collapse border-t border-line">
        <tbody>
          {data.map(p => (
            <tr key={p.id} className="border-b border-line [&>td]:py-1 [&>td]:pr-3">
              {mayEdit && (
                <td className="w-6">
                  <CheckBox label={`Choose ${p.code}`} isLabelHidden checked={chosen.has(p.id)} onChange={() => toggle(p.id)} />
                </td>
              )}
              <td className="w-36">
                <span className="flex gap-1">
                  <img src={p.url ?? ''} alt="its own" className="aspect-[4/3] w-16 bg-mount object-contain" />
                  {p.rigPicture && <img src={p.rigPicture} alt="the rig's" className="aspect-[4/3] w-16 bg-mount" />}
                </span>
              </td>
              <td>
                <Link to={`/items/${p.code}`} state={{ behind: location }} className="font-medium hover:underline">
                  {p.name}
                </Link>{' '}
                <span className="figures text-xs text-quiet">{p.code}</span>
                <span className="block text-xs text-quiet">
                  {p.fileName}, set by {p.by}
                </span>
              </td>
              <td className="text-right text-xs text-quiet">{describeScore(p)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
