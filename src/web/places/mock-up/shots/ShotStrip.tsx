import { Camera } from 'lucide-react'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpPicture } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../../components/controls/Button'
import { shotsInOrder } from '../state/shots-in-order'

interface Props {
  scene: Scene
  pictures: readonly MockUpPicture[]
  active: string | null
  onShot: (id: string) => void
  onTake: () => void
}

/** The shots from the left, each by its newest picture; one is looked through. */
export function ShotStrip({ scene, pictures, active, onShot, onTake }: Props) {
  return (
    <ul aria-label="Shots" className="flex min-w-0 items-center gap-1.5 overflow-x-auto">
      {shotsInOrder(scene).map(([id, shot], k) => {
        const picture = pictures.find(p => p.shot === id && p.url)
        return (
          <li key={id} className="shrink-0">
            <button
              type="button"
              aria-pressed={id === active}
              title={`${shot.name}${k < 9 ? `, key ${k + 1}` : ''}`}
              onClick={() => onShot(id)}
              className={`flex h-9 items-center gap-2 rounded-sm bg-mount pr-2.5 ${picture ? 'pl-0.5' : 'pl-2.5'} ${id === active ? 'outline-2 -outline-offset-2 outline-ink' : 'hover:outline hover:outline-edge'}`}
            >
              {picture?.url && <img src={picture.url} alt="" className="h-8 w-12 object-cover" />}
              <span className="max-w-32 truncate">{shot.name}</span>
            </button>
          </li>
        )
      })}
      <li className="shrink-0">
        <Button variant="bare" onClick={onTake} title="Keep what is seen now as a shot, key P">
          <Camera aria-hidden className="size-3.5" />
          Take a shot
        </Button>
      </li>
    </ul>
  )
}
