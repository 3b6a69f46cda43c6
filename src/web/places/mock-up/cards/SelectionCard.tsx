import { Copy, Eye, EyeOff, Lock, LockOpen, Trash2 } from 'lucide-react'
import type { ReactNode } from 'react'
import { Link, useLocation } from 'react-router'
import type { Vec3 } from '#core/math/vec3'
import type { Box } from '#core/mock-up/placing/snapping'
import { isLocked, lock, move, putInGroup, remove, scale, show, turn } from '#core/mock-up/scene/pieces'
import type { Piece, Scene } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Choice } from '../../../components/controls/Choice'
import { IconButton } from '../../../components/controls/IconButton'
import { NumberInput } from '../../../components/controls/NumberInput'
import { Line } from '../../../components/Line'
import { StandIn } from '../stage/StandIn'
import type { useStandIn } from '../stage/use-stand-in'
import type { MockUpSession } from '../state/mock-up-session'
import type { Assigning } from '../state/use-assigning'
import type { LiveResources } from '../state/use-resources'
import type { Staged } from '../state/use-staged'
import { GoesTo } from './GoesTo'
import { TypeRow } from './TypeRow'
import { Note, Worn } from './Worn'

interface Props {
  mockUpId: number
  materials: LiveResources['materials']
  scene: Scene
  session: MockUpSession
  staged: Staged
  items: ReadonlyMap<string, MockUpItem>
  ids: readonly string[]
  part: string | null
  onPart: (part: string) => void
  onChosen: (ids: readonly string[]) => void
  /** Copies beside what is chosen, which are chosen then. */
  onCopy: () => void
  assigning: Assigning
  standIn: ReturnType<typeof useStandIn>
}

const yawOf = ({ turn: [x, y, z, w] }: Piece): number =>
  (Math.atan2(2 * (w * y + x * z), 1 - 2 * (y * y + x * x)) * 180) / Math.PI

/** What concerns the pieces that are chosen: where they stand, what they wear, what can be done with them. */
export function SelectionCard(props: Props) {
  const { scene, session, staged, items, ids, part, onChosen, onCopy } = props
  const location = useLocation()
  const pieces = ids.map(id => scene.pieces[id])
  const [first] = pieces
  const item = items.get(first.item.inputKey)
  const isOne = ids.length === 1
  const areLocked = pieces.every(p => isLocked(scene, p))
  const areHidden = pieces.every(p => p.isHidden)
  const pivot: Vec3 = isOne
    ? first.position
    : middleOf(
        ids.flatMap(id => staged.boxes.get(id) ?? []),
        first.position,
      )
  const setAt = (axis: number, value: number | null) => {
    if (value === null) return
    const by: Vec3 = [0, 0, 0]
    by[axis] = value - pivot[axis]
    session.act(move(scene, ids, by))
  }
  const size = isOne ? staged.boxes.get(ids[0]) : undefined
  return (
    <div className="flex flex-col gap-3">
      <header className="min-w-0">
        <h2 className="truncate font-medium" title={isOne ? first.name : undefined}>
          {isOne ? first.name : `${ids.length} pieces`}
        </h2>
        {isOne && (
          <p className="figures flex gap-2 text-xs text-quiet">
            <Link to={`/items/${first.item.code}`} state={{ behind: location }} className="underline">
              {first.item.code}
            </Link>
            <span>version {first.item.version}</span>
          </p>
        )}
        {isOne && item && <ItemNote item={item} piece={first} session={session} scene={scene} />}
      </header>
      <div className="flex flex-wrap gap-1">
        <IconButton look="framed" label="Copy beside it, key D" onClick={onCopy} disabled={areLocked}>
          <Copy aria-hidden className="size-4" />
        </IconButton>
        <IconButton
          look="framed"
          label={areHidden ? 'Show, key H' : 'Hide, key H'}
          onClick={() => session.act(show(scene, ids, areHidden))}
        >
          {areHidden ? <Eye aria-hidden className="size-4" /> : <EyeOff aria-hidden className="size-4" />}
        </IconButton>
        <IconButton
          look="framed"
          label={areLocked ? 'Free again, key L' : 'Lock where it stands, key L'}
          onClick={() => session.act(lock(scene, ids, !areLocked))}
        >
          {areLocked ? <LockOpen aria-hidden className="size-4" /> : <Lock aria-hidden className="size-4" />}
        </IconButton>
        <IconButton
          look="framed"
          label="Take out, key Delete"
          disabled={areLocked}
          onClick={() => {
            session.act(remove(scene, ids))
            onChosen([])
          }}
        >
          <Trash2 aria-hidden className="size-4" />
        </IconButton>
      </div>
      <div className="flex flex-col gap-1.5">
        <div className="grid grid-cols-3 gap-1.5">
          {PLACES.map(({ text, label, axis }) => (
            <Small key={axis} text={text}>
              <NumberInput
                label={label}
                digits={3}
                min={-1000}
                max={1000}
                value={pivot[axis]}
                disabled={areLocked}
                onSettle={v => setAt(axis, v)}
              />
            </Small>
          ))}
          <Small text="Turn, °">
            <NumberInput
              label="Turn about the vertical"
              digits={1}
              min={-360}
              max={360}
              value={isOne ? yawOf(first) : 0}
              disabled={areLocked}
              onSettle={v => v !== null && session.act(turn(scene, ids, isOne ? v - yawOf(first) : v, pivot))}
            />
          </Small>
          {isOne && (
            <Small text="Size, %">
              <NumberInput
                label="Size against the true one"
                digits={1}
                min={1}
                max={10_000}
                value={first.scale * 100}
                disabled={areLocked}
                onSettle={v => v !== null && v > 0 && session.act(scale(scene, ids, v / 100 / first.scale, first.position))}
              />
            </Small>
          )}
        </div>
        {size && (
          <p className="figures text-right text-xs text-quiet">
            {[0, 2, 1].map(k => `${(size.max[k] - size.min[k]).toFixed(2)}`).join(' × ')} m
          </p>
        )}
        <Line text="Group">
          <Choice
            label="Group"
            value={first.group ?? ''}
            onChange={group => session.act(putInGroup(scene, ids, group === '' ? null : { id: group }))}
            options={[
              { value: '', text: 'none' },
              ...Object.entries(scene.groups).map(([value, g]) => ({ value, text: g.name })),
            ]}
            className="w-36"
          />
        </Line>
      </div>
      {isOne && !areLocked && (
        <StandIn wish={props.standIn.wish} onWish={props.standIn.setWish} alike={props.standIn.alike} what="piece" />
      )}
      {isOne && <Parts {...props} id={ids[0]} part={part} />}
    </div>
  )
}

const PLACES = [
  { text: 'East, m', label: 'To the east of the middle', axis: 0 },
  { text: 'South, m', label: 'To the south of the middle', axis: 2 },
  { text: 'Height, m', label: 'Height over the floor', axis: 1 },
] as const

const Small = ({ text, children }: { text: string; children: ReactNode }) => (
  <span className="min-w-0">
    <span aria-hidden className="block text-2xs text-quiet">
      {text}
    </span>
    {children}
  </span>
)

const middleOf = (boxes: readonly Box[], or: Vec3): Vec3 =>
  boxes.length === 0
    ? or
    : ([0, 1, 2].map(k =>
        k === 1
          ? Math.min(...boxes.map(b => b.min[1]))
          : (Math.min(...boxes.map(b => b.min[k])) + Math.max(...boxes.map(b => b.max[k]))) / 2,
      ) as Vec3)

/** What the item's state, version or size says about its use here. */
function ItemNote({ item, piece, scene, session }: { item: MockUpItem; piece: Piece; scene: Scene; session: MockUpSession }) {
  const { newer } = item
  const takeNewer = () => {
    const same = Object.entries(scene.pieces).filter(([, p]) => p.item.inputKey === piece.item.inputKey)
    session.act({ pieces: Object.fromEntries(same.map(([id, p]) => [id, { ...p, item: newer! }])) })
  }
  return (
    <>
      {item.state === 'hidden' && <Note>It is not in the library any more, or not yours to see.</Note>}
      {item.state === 'withdrawn' && <Note>It was withdrawn from the library.</Note>}
      {(item.state === 'draft' || item.state === 'inReview') && <Note>No version of it is approved yet.</Note>}
      {newer && (
        <Note>
          Version {newer.version} is approved.{' '}
          <button type="button" onClick={takeNewer} className="font-medium underline">
            Take it for all
          </button>
        </Note>
      )}
      {Math.abs(piece.scale - 1) > 1e-6 && !item.category.startsWith('vegetation') && (
        <Note>Not at its true size: {(piece.scale * 100).toFixed(0)} % of what its maker builds.</Note>
      )}
    </>
  )
}

function Parts({ id, part, ...props }: Props & { id: string }) {
  const { scene, session, staged, items, onPart, assigning } = props
  const { reach, setReach } = assigning
  const piece = scene.pieces[id]
  const parts = staged.book.partsOf(piece)
  if (parts.length === 0) return null
  return (
    <section aria-label="Parts" className="flex flex-col gap-2 border-t border-line pt-3">
      <GoesTo scene={scene} spot={{ piece: id, part: part ?? '' }} reach={reach} onReach={setReach} />
      <ul>
        {parts.map(({ name, own }) => {
          const worn = piece.materials[name]
          const wornItem = worn && items.get(worn.material.inputKey)
          return (
            <li key={name}>
              <button
                type="button"
                aria-pressed={name === part}
                onClick={() => onPart(name)}
                className={`flex w-full items-center gap-2 px-1.5 py-1 text-left ${name === part ? 'bg-mount font-medium' : 'hover:bg-mount/60'}`}
              >
                <span className="min-w-0 flex-1 truncate">{name}</span>
                <span className="max-w-32 truncate text-xs font-normal text-quiet" title={wornItem?.name ?? own}>
                  {wornItem?.name ?? own}
                </span>
              </button>
            </li>
          )
        })}
      </ul>
      {part !== null && <TypeRow scene={scene} session={session} staged={staged} spot={{ piece: id, part }} reach={reach} />}
      {part !== null && (
        <Worn
          mockUpId={props.mockUpId}
          materials={props.materials}
          scene={scene}
          session={session}
          items={items}
          staged={staged}
          reach={reach}
          spot={{ piece: id, part }}
          assigning={assigning}
        />
      )}
    </section>
  )
}
