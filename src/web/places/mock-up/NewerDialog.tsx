import { useEffect, useState } from 'react'
import { toast } from 'sonner'
import { listKeys } from '#core/mock-up/materials/list-refs'
import { replaceRef } from '#core/mock-up/materials/uses'
import { applyChange, joinChanges } from '#core/mock-up/scene/change'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { Modal } from '../../components/dialogs/Modal'
import { PreviewFrame } from '../../components/PreviewFrame'
import { plural } from '../../words/states'
import type { MockUpSession } from './state/mock-up-session'
import { useFindItems } from './state/use-find-items'

interface Props {
  scene: Scene
  session: MockUpSession
  outdated: readonly MockUpItem[]
  onItems: (items: readonly MockUpItem[]) => void
  /** The shot that is looked through, once as it is and once with the newer versions. */
  onRender: (codes: readonly string[]) => void
  onClose: () => void
}

/** What the scene has of items of which another version is approved by now, the newest of each code. */
export function listOutdated(scene: Scene, items: ReadonlyMap<string, MockUpItem>): MockUpItem[] {
  const found = listKeys(scene).flatMap(key => {
    const item = items.get(key)
    return item?.newer && item.id !== null ? [item] : []
  })
  return [...new Map(found.map(item => [item.ref.code, item])).values()]
}

/** Newer versions of what is in the scene: seen beside those that it has, tried in a picture, and taken. */
export function NewerDialog({ outdated, scene, session, onItems, onRender, onClose }: Props) {
  const [chosen, setChosen] = useState<readonly string[]>(() => outdated.map(item => item.ref.code))
  const [fresh, setFresh] = useState<ReadonlyMap<number, MockUpItem>>(new Map())
  const find = useFindItems(onItems)
  // biome-ignore lint/correctness/useExhaustiveDependencies: looked up once, when it is opened
  useEffect(() => {
    void find(outdated.flatMap(item => item.id ?? [])).then(list => {
      if (list) setFresh(new Map(list.flatMap(item => (item.id === null ? [] : [[item.id, item] as const]))))
    })
  }, [])
  const take = () => {
    let whole = {}
    for (const { ref, newer } of outdated)
      if (newer && chosen.includes(ref.code))
        whole = joinChanges(whole, replaceRef(applyChange(scene, whole).scene, ref.code, newer))
    session.act(whole)
    toast(`${plural(chosen.length, 'item is', 'items are')} here in the newer version now. Undo takes it back.`)
    onClose()
  }
  return (
    <Modal title="Newer versions of what is here" width="wide" onClose={onClose}>
      <ul className="border-t border-line">
        {outdated.map(item => {
          const { ref, newer, id, name } = item
          return (
            <li key={ref.code} className="flex items-center gap-4 border-b border-line py-2">
              <CheckBox
                label={`Version ${newer!.version} of ${name}`}
                isLabelHidden
                checked={chosen.includes(ref.code)}
                onChange={isOn => setChosen(isOn ? [...chosen, ref.code] : chosen.filter(c => c !== ref.code))}
              />
              <span className="min-w-0 flex-1">
                <span className="block truncate font-medium">{name}</span>
                <span className="figures block text-xs text-quiet">{ref.code}</span>
              </span>
              {[
                { version: ref.version, preview: item.preview },
                { version: newer!.version, preview: (id !== null && fresh.get(id)?.preview) || null },
              ].map(({ version, preview }) => (
                <figure key={version} className="w-32">
                  <PreviewFrame url={preview} alt={`${name}, version ${version}`} />
                  <figcaption className="mt-1 text-xs text-quiet">version {version}</figcaption>
                </figure>
              ))}
            </li>
          )
        })}
      </ul>
      <div className="mt-4 flex justify-end gap-2">
        <Button variant="bare" onClick={onClose}>
          Leave it
        </Button>
        <Button
          disabled={chosen.length === 0}
          title="The shot that is looked through as a draft, once as it is and once with the newer versions"
          onClick={() => onRender(chosen)}
        >
          Render before and after
        </Button>
        <Button variant="next" disabled={chosen.length === 0} onClick={take}>
          Take {plural(chosen.length, 'newer version')}
        </Button>
      </div>
    </Modal>
  )
}
