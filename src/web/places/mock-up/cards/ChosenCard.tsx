import type { Scene, Spot } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Line } from '../../../components/Line'
import { StandIn } from '../stage/StandIn'
import type { useStandIn } from '../stage/use-stand-in'
import type { Chosen } from '../state/chosen'
import type { MockUpSession } from '../state/mock-up-session'
import type { Assigning } from '../state/use-assigning'
import type { usePlants } from '../state/use-plants'
import type { LiveResources } from '../state/use-resources'
import type { Staged } from '../state/use-staged'
import { GoesTo } from './GoesTo'
import { LightCard } from './LightCard'
import { PlantingCard } from './PlantingCard'
import { SelectionCard } from './SelectionCard'
import { TypeRow } from './TypeRow'
import { Worn } from './Worn'

interface Props {
  mockUpId: number
  materials: LiveResources['materials']
  scene: Scene
  session: MockUpSession
  staged: Staged
  items: ReadonlyMap<string, MockUpItem>
  webs: LiveResources['webs']
  plants: ReturnType<typeof usePlants>
  chosen: NonNullable<Chosen>
  onChosen: (chosen: Chosen) => void
  onCopy: () => void
  onStage: () => void
  /** The table of the materials of the stage's model. */
  onMaterials: () => void
  standIn: ReturnType<typeof useStandIn>
  assigning: Assigning
}

/** What concerns what is chosen, whatever it is. */
export function ChosenCard(props: Props) {
  const { chosen, onChosen, scene, session, staged, items, assigning, standIn } = props
  switch (chosen.kind) {
    case 'pieces':
      return (
        <SelectionCard
          mockUpId={props.mockUpId}
          materials={props.materials}
          scene={scene}
          session={session}
          staged={staged}
          items={items}
          ids={chosen.ids}
          part={chosen.part}
          onPart={part => onChosen({ ...chosen, part })}
          onChosen={ids => onChosen(ids.length > 0 ? { kind: 'pieces', ids, part: null } : null)}
          onCopy={props.onCopy}
          assigning={assigning}
          standIn={props.standIn}
        />
      )
    case 'stage': {
      const spot: Spot = { piece: null, part: chosen.part }
      const reach = assigning.reach === 'instances' ? 'part' : assigning.reach
      const own = staged.book.stageParts.find(p => p.name === chosen.part)?.own
      return (
        <div className="flex flex-col gap-3">
          <h2 className="font-medium">{chosen.part}</h2>
          <Line text={own ? `Came as ${own}` : 'Part of the stage'}>
            <button type="button" className="underline" onClick={own ? props.onMaterials : props.onStage}>
              {own ? 'All materials' : 'Measures'}
            </button>
          </Line>
          <GoesTo scene={scene} spot={spot} reach={reach} onReach={assigning.setReach} />
          <TypeRow scene={scene} session={session} staged={staged} spot={spot} reach={reach} />
          <Worn
            mockUpId={props.mockUpId}
            materials={props.materials}
            scene={scene}
            session={session}
            items={items}
            staged={staged}
            reach={reach}
            spot={spot}
            assigning={assigning}
          />
          {scene.stage.kind === 'model' && (
            <StandIn wish={standIn.wish} onWish={standIn.setWish} alike={standIn.alike} what="thing" />
          )}
        </div>
      )
    }
    case 'planting':
      return (
        <PlantingCard
          scene={scene}
          session={session}
          id={chosen.id}
          plant={chosen.plant}
          plants={props.plants.get(chosen.id) ?? []}
          onGone={() => onChosen(null)}
          onPieces={ids => onChosen({ kind: 'pieces', ids, part: null })}
        />
      )
    case 'light':
      return <LightCard scene={scene} session={session} webs={props.webs} id={chosen.id} onGone={() => onChosen(null)} />
    default:
      return chosen satisfies never
  }
}
