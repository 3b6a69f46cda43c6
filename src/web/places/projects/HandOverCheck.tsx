import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import type { MaterialForm } from '#core/hand-over/profile'
import type { HandOverCheck as Check } from '#shared/contracts/projects.contract'
import { lostWord } from '#shared/parameter-words'
import { MATERIAL_FORM_WORDS } from '#shared/profile-words'
import { formatNumber } from '#shared/units'
import { Button } from '../../components/controls/Button'
import { Modal } from '../../components/dialogs/Modal'
import { useCheckHandOverQuery } from '../../state/api'
import { plural } from '../../words/states'

/** What is to be known before it leaves: what its licence keeps here, and which looks the form does not hold. */
export function HandOverCheck({ projectId, materials }: { projectId: number; materials: MaterialForm }) {
  const { data: check } = useCheckHandOverQuery({ id: projectId, materials })
  const [isOpen, setOpen] = useState(false)
  if (!check) return null
  const { refused, losing, unmeasured } = check
  if (refused.length + losing.length + unmeasured === 0) return null
  return (
    <div className="flex flex-col gap-2 border-l-2 border-ink pl-2 text-xs">
      {refused.length > 0 && (
        <div>
          <p className="font-medium">{plural(refused.length, 'item stays', 'items stay')} behind:</p>
          <ul>
            {refused.slice(0, 3).map(item => (
              <li key={item.itemId}>
                <span className="figures">{item.code}</span> {item.reason}
              </li>
            ))}
            {refused.length > 3 && <li className="text-quiet">and {refused.length - 3} more</li>}
          </ul>
        </div>
      )}
      {losing.length > 0 && (
        <p>
          {plural(losing.length, 'material loses its look', 'materials lose their look')} in this form.{' '}
          <button type="button" className="underline hover:text-ink" onClick={() => setOpen(true)}>
            See which
          </button>
        </p>
      )}
      {unmeasured > 0 && (
        <p className="text-quiet">
          {plural(unmeasured, 'material was', 'materials were')} not measured in it;{' '}
          <Link to="/upkeep" className="underline hover:text-ink">
            Upkeep
          </Link>{' '}
          measures them.
        </p>
      )}
      {isOpen && <Losing check={check} materials={materials} onClose={() => setOpen(false)} />}
    </div>
  )
}

interface LosingProps {
  check: Check
  materials: MaterialForm
  onClose: () => void
}

function Losing({ check: { losing }, materials, onClose }: LosingProps) {
  const location = useLocation()
  return (
    <Modal title={`What ${MATERIAL_FORM_WORDS[materials]} do not keep`} width="frame" onClose={onClose}>
      <ul className="border-t border-line">
        {losing.map(item => (
          <li key={item.itemId} className="grid grid-cols-[auto_minmax(0,1fr)_6rem] items-center gap-4 border-b border-line py-2">
            <span className="flex gap-1">
              <img src={item.original} alt="as it is" className="aspect-[4/3] w-28 bg-mount" />
              <img src={item.picture} alt="as this form keeps it" className="aspect-[4/3] w-28 bg-mount" />
            </span>
            <span className="min-w-0">
              <Link
                to={`/items/${item.code}`}
                state={{ behind: location }}
                className="block truncate font-medium hover:underline"
              >
                {item.name}
              </Link>
              <span className="figures block text-xs text-quiet">{item.code}</span>
              <span className="block text-xs">
                {item.lost.length > 0 ? `Lost: ${item.lost.map(lostWord).join(', ')}` : 'Nothing is lost, but it looks other.'}
              </span>
            </span>
            <span className="figures text-right text-xs">
              FLIP {formatNumber(item.meanFlip, 3)}
              <span className="block text-quiet">ΔE00 {formatNumber(item.deltaE, 1)}</span>
            </span>
          </li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Modal>
  )
}
