import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUp, MockUpItem, OrderPictures } from '#shared/contracts/mock-ups.contract'
import { NewerDialog } from './NewerDialog'
import { OrderDialog } from './shots/OrderDialog'
import { StageDialog } from './stage/StageDialog'
import { StageMaterials } from './stage/StageMaterials'
import type { MockUpSession } from './state/mock-up-session'

export type MockUpDialog = 'order' | 'newer' | 'stage' | 'materials'

interface Props {
  open: MockUpDialog | null
  onOpen: (dialog: MockUpDialog | null) => void
  mockUp: MockUp
  scene: Scene
  session: MockUpSession
  /** The shot that is looked through. */
  shot: string | null
  outdated: readonly MockUpItem[]
  library: string
  beginsWithModel: boolean
  onItems: (items: readonly MockUpItem[]) => void
  onRender: (wanted: OrderPictures) => void
}

/** What is asked in the middle of the page; one thing at a time. */
export function MockUpDialogs(props: Props) {
  const { open, onOpen, mockUp, scene, session, shot, outdated, library, onItems, onRender } = props
  const close = () => onOpen(null)
  switch (open) {
    case null:
      return null
    case 'order':
      return <OrderDialog scene={scene} shot={shot} onOrder={onRender} onClose={close} />
    case 'newer':
      return (
        <NewerDialog
          outdated={outdated}
          scene={scene}
          session={session}
          onItems={onItems}
          onRender={codes => onRender({ shots: shot === null ? [] : [shot], quality: 'draft', newer: [...codes] })}
          onClose={close}
        />
      )
    case 'stage':
      return (
        <StageDialog
          mockUp={mockUp}
          stage={scene.stage}
          session={session}
          onClose={close}
          onMaterials={() => onOpen('materials')}
          begins={props.beginsWithModel ? 'model' : undefined}
        />
      )
    case 'materials':
      return scene.stage.kind === 'model' ? (
        <StageMaterials
          mockUp={mockUp}
          stage={scene.stage}
          library={library}
          session={session}
          onItems={onItems}
          onClose={close}
        />
      ) : null
    default:
      return open satisfies never
  }
}
