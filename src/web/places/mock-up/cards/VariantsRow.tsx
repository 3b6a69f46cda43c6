import { Plus, X } from 'lucide-react'
import { choiceAt, dropVariant, showVariant } from '#core/mock-up/materials/variants'
import type { Scene, Spot } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { PreviewFrame } from '../../../components/PreviewFrame'
import type { MockUpSession } from '../state/mock-up-session'

interface Props {
  scene: Scene
  session: MockUpSession
  items: ReadonlyMap<string, MockUpItem>
  spot: Spot
  /** Whether the next material becomes one more variant in place of the one shown. */
  adds: boolean
  onAdds: (adds: boolean) => void
}

/** The materials that a part may carry: one is shown, the others are a click away. */
export function VariantsRow({ scene, session, items, spot, adds, onAdds }: Props) {
  const found = choiceAt(scene, spot)
  return (
    <section aria-label="Variants" className="flex flex-col gap-1.5">
      {found && (
        <>
          <p className="flex items-baseline justify-between text-xs text-quiet">
            <span>Variants on {found.choice.spots.length === 1 ? 'this part' : `${found.choice.spots.length} parts`}</span>
            <span>key V</span>
          </p>
          <ul className="grid grid-cols-4 gap-1.5">
            {found.choice.variants.map((variant, k) => {
              const item = variant && items.get(variant.material.inputKey)
              const name = item?.name ?? variant?.material.code ?? 'its own'
              const isShown = k === found.choice.shown
              return (
                <li key={k} className="group relative min-w-0">
                  <button
                    type="button"
                    aria-pressed={isShown}
                    title={name}
                    onClick={() => session.act(showVariant(scene, found.id, k))}
                    className={`block w-full text-left ${isShown ? 'outline-2 outline-offset-1 outline-ink' : 'hover:outline hover:outline-edge'}`}
                  >
                    <PreviewFrame url={item?.preview ?? null} alt="" />
                    <span className={`block truncate text-2xs ${isShown ? 'font-medium' : 'text-quiet'}`}>{name}</span>
                  </button>
                  <button
                    type="button"
                    aria-label={`Take the variant ${name} out`}
                    title="Take this variant out"
                    onClick={() => session.act(dropVariant(scene, found.id, k))}
                    className="absolute top-0 right-0 hidden size-5 items-center justify-center bg-sheet group-focus-within:flex group-hover:flex"
                  >
                    <X aria-hidden className="size-3" />
                  </button>
                </li>
              )
            })}
          </ul>
        </>
      )}
      <button
        type="button"
        aria-pressed={adds}
        onClick={() => onAdds(!adds)}
        className={`flex items-center gap-1.5 self-start rounded-sm px-1.5 py-1 text-xs ${adds ? 'bg-ink text-mount' : 'hover:bg-mount'}`}
      >
        <Plus aria-hidden className="size-3.5" />
        {adds ? 'The next material becomes a variant' : 'Add a variant'}
      </button>
    </section>
  )
}
