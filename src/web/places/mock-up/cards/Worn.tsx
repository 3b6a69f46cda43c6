import { type ReactNode, useState } from 'react'
import { toast } from 'sonner'
import { wornAt } from '#core/mock-up/materials/assign-parts'
import { assignTo, listReached, ownNames, type Reach } from '#core/mock-up/materials/wearing'
import { applyChange, joinChanges } from '#core/mock-up/scene/change'
import type { Assignment, Scene, Spot } from '#core/mock-up/scene/scene'
import { layAlongEdge } from '#core/mock-up/texture/lay-along-edge'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { FigureLine } from '../../../components/FigureLine'
import { Line } from '../../../components/Line'
import type { MockUpSession } from '../state/mock-up-session'
import type { Assigning } from '../state/use-assigning'
import type { LiveResources } from '../state/use-resources'
import type { Staged } from '../state/use-staged'
import { Adjusted } from './Adjusted'
import { ProposeDialog } from './ProposeDialog'
import { VariantsRow } from './VariantsRow'

export const Note = ({ children }: { children: ReactNode }) => (
  <p className="mt-1 border-l-2 border-ink pl-2 text-xs">{children}</p>
)

interface WornProps {
  scene: Scene
  session: MockUpSession
  mockUpId: number
  items: ReadonlyMap<string, MockUpItem>
  materials: LiveResources['materials']
  staged: Staged
  /** How far a change of it goes, of what that can be here. */
  reach: Reach
  spot: Spot
  assigning: Assigning
}

/** How the material that was put on a part lies there, and the way back to its own. */
export function Worn(props: WornProps) {
  const { scene, session, items, spot } = props
  const worn = wornAt(scene, spot, spot.piece === null ? ownNames(props.staged.book).get(spot.part) : undefined)
  return (
    <div className="flex flex-col gap-2">
      <VariantsRow
        scene={scene}
        session={session}
        items={items}
        spot={spot}
        adds={props.assigning.addsVariant}
        onAdds={props.assigning.setAddsVariant}
      />
      {worn ? (
        <Laid {...props} worn={worn} />
      ) : (
        <p className="text-xs text-quiet">Drop a material on it, or choose one on the shelf: it goes to the part chosen here.</p>
      )}
    </div>
  )
}

function Laid({
  mockUpId,
  scene,
  session,
  items,
  materials,
  staged,
  reach,
  spot,
  worn,
  assigning,
}: WornProps & { worn: Assignment }) {
  const change = (next: Partial<Assignment>, key?: string) => {
    // What lies on several parts is laid on each of them; the material of each stays.
    const ownOf = ownNames(staged.book)
    const wornOn = (s: Spot) => wornAt(scene, s, s.piece === null ? ownOf.get(s.part) : undefined)
    const spots = listReached(scene, spot, reach, staged.book).filter(
      s => wornOn(s)?.material.inputKey === worn.material.inputKey,
    )
    let whole = {}
    for (const s of spots) whole = joinChanges(whole, assignTo(applyChange(scene, whole).scene, [s], { ...wornOn(s)!, ...next }))
    session.act(whole, key && `${key} ${spot.piece} ${spot.part}`)
  }
  const look = materials.get(worn.material.inputKey)
  const item = items.get(worn.material.inputKey)
  /** As it is drawn, whatever it wears and however that lies. */
  const laid = (
    spot.piece === null
      ? staged.stage
      : (staged.placed.find(thing => thing.of.some(({ piece }) => piece === spot.piece))?.parts ?? [])
  ).find(part => part.name === spot.part)
  const [isProposing, setProposing] = useState(false)
  return (
    <div className="flex flex-col gap-1.5">
      <p className="truncate text-xs text-quiet">{items.get(worn.material.inputKey)?.name ?? worn.material.code}</p>
      <FigureLine
        text="Turned"
        label="Turn of the texture"
        unit="°"
        digits={1}
        min={-360}
        max={360}
        value={worn.turnDeg}
        onSettle={v => v !== null && change({ turnDeg: v })}
      />
      <FigureLine
        text="Moved across"
        label="Texture moved across"
        unit="m"
        digits={3}
        min={-100}
        max={100}
        value={worn.offsetM[0]}
        onSettle={v => v !== null && change({ offsetM: [v, worn.offsetM[1]] })}
      />
      <FigureLine
        text="Moved down"
        label="Texture moved down"
        unit="m"
        digits={3}
        min={-100}
        max={100}
        value={worn.offsetM[1]}
        onSettle={v => v !== null && change({ offsetM: [worn.offsetM[0], v] })}
      />
      {laid && look?.material.tiling !== 'once' && (
        <Line text="Its longest edge">
          <span className="-mr-3 flex">
            {(['along', 'across'] as const).map(way => (
              <Button
                key={way}
                variant="bare"
                title={`The texture ${way} the longest edge of the part, from its corner`}
                onClick={() => {
                  const found = layAlongEdge(laid.mesh, worn, way === 'across')
                  if (found) change(found)
                  else toast('The part has no edge to lay a texture by.')
                }}
              >
                {way === 'along' ? 'Along' : 'Across'}
              </Button>
            ))}
          </span>
        </Line>
      )}
      <Line text="Laid by">
        <Choice
          label="Laid by"
          value={worn.mapping}
          onChange={mapping => change({ mapping })}
          options={[
            { value: 'own', text: "the part's coordinates" },
            { value: 'box', text: 'the three axes' },
          ]}
          className="w-44"
        />
      </Line>
      <Adjusted worn={worn} material={look?.material} onChange={change} onPropose={() => setProposing(true)} />
      <div className="-ml-3 flex">
        <Button variant="bare" onClick={() => session.act(assignTo(scene, listReached(scene, spot, reach, staged.book), null))}>
          Its own again
        </Button>
        <Button variant="bare" title="Take it up, and put it on other parts with a click; key M" onClick={assigning.pickUp}>
          Take it up
        </Button>
      </div>
      {isProposing && item && hasId(item) && (
        <ProposeDialog
          mockUpId={mockUpId}
          worn={worn}
          item={item}
          material={look?.material}
          onMade={material => change({ material, shift: undefined, override: {} })}
          onClose={() => setProposing(false)}
        />
      )}
    </div>
  )
}

const hasId = (item: MockUpItem): item is MockUpItem & { id: number } => item.id !== null
