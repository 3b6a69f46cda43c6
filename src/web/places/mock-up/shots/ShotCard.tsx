import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import { SlidersHorizontal } from 'lucide-react'
import type { Assignment, Scene, Shot } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../../components/controls/Button'
import { CheckBox } from '../../../components/controls/CheckBox'
import { Choice } from '../../../components/controls/Choice'
import { DraftField } from '../../../components/controls/DraftField'
import { FigureLine } from '../../../components/FigureLine'
import { Line } from '../../../components/Line'
import type { MockUpSession } from '../state/mock-up-session'

const ASPECTS = [
  ['2.35', '2.35 : 1'],
  ['1.777', '16 : 9'],
  ['1.6', '16 : 10'],
  ['1.5', '3 : 2'],
  ['1.333', '4 : 3'],
  ['1.25', '5 : 4'],
  ['1', 'square'],
  ['0.8', '4 : 5'],
  ['0.707', 'A-series upright'],
] as const

interface Props {
  scene: Scene
  session: MockUpSession
  items: ReadonlyMap<string, MockUpItem>
  id: string
  /** What is seen is not what the shot frames any more. */
  isAway: boolean
  onSetHere: () => void
  onBack: () => void
  onGone: () => void
  /** After the lens was changed by its figures. */
  onFigures: (shot: Shot) => void
}

/** The figures of the shot that is looked through. */
export function ShotCard({ scene, session, items, id, isAway, onSetHere, onBack, onGone, onFigures }: Props) {
  const shot = scene.shots[id]
  const change = (next: Partial<Shot>) => {
    const changed = { ...shot, ...next }
    session.act({ shots: { [id]: changed } })
    onFigures(changed)
  }
  const nameOf = (variant: Assignment | null) =>
    variant ? (items.get(variant.material.inputKey)?.name ?? variant.material.code) : 'its own'
  const nearest = ASPECTS.reduce((best, a) =>
    Math.abs(Number(a[0]) - shot.aspect) < Math.abs(Number(best[0]) - shot.aspect) ? a : best,
  )
  return (
    <>
      {isAway && (
        <>
          <Button onClick={onSetHere} title="The shot frames what is seen now">
            Set the shot here
          </Button>
          <Button variant="bare" onClick={onBack}>
            Back to the shot
          </Button>
        </>
      )}
      <Popover className="relative">
        <PopoverButton
          aria-label={`Figures of the shot ${shot.name}`}
          className="flex h-8 items-center gap-1.5 rounded-sm px-2 hover:bg-mount"
        >
          <SlidersHorizontal aria-hidden className="size-3.5" />
          <span className="figures text-xs">{Math.round(shot.focalMm)} mm</span>
        </PopoverButton>
        <PopoverPanel
          anchor={{ to: 'bottom start', gap: 4, padding: 8 }}
          className="z-50 flex w-72 flex-col gap-2.5 rounded-sm border border-edge bg-sheet p-4 shadow-lg"
        >
          <DraftField label="Name" value={shot.name} onSettle={name => name.trim() !== '' && change({ name: name.trim() })} />
          <FigureLine
            text="Focal length"
            unit="mm"
            min={8}
            max={600}
            digits={1}
            value={shot.focalMm}
            onSettle={v => v !== null && change({ focalMm: v })}
          />
          <FigureLine
            text="Height of the camera"
            unit="m"
            digits={2}
            min={-100}
            max={500}
            value={shot.position[1]}
            onSettle={v =>
              v !== null &&
              change({
                position: [shot.position[0], v, shot.position[2]],
                target: [shot.target[0], shot.target[1] + v - shot.position[1], shot.target[2]],
              })
            }
          />
          <Line text="Frame">
            <Choice
              label="Frame"
              value={nearest[0]}
              onChange={aspect => change({ aspect: Number(aspect) })}
              options={ASPECTS.map(([value, text]) => ({ value, text }))}
              className="w-36"
            />
          </Line>
          <FigureLine
            text="Exposure"
            label="Exposure of the shot"
            unit="EV"
            digits={2}
            min={-12}
            max={12}
            value={shot.ev}
            onSettle={v => v !== null && change({ ev: v })}
          />
          {Object.entries(scene.choices).map(([choiceId, choice]) => (
            <Line key={choiceId} text={choice.name}>
              <Choice
                label={`Variant of ${choice.name} in this shot`}
                value={String(shot.variants[choiceId] ?? '')}
                onChange={value => {
                  const { [choiceId]: _, ...rest } = shot.variants
                  change({ variants: value === '' ? rest : { ...rest, [choiceId]: Number(value) } })
                }}
                options={[
                  { value: '', text: 'as it is shown' },
                  ...choice.variants.map((v, k) => ({ value: String(k), text: nameOf(v) })),
                ]}
                className="w-36"
              />
            </Line>
          ))}
          <FigureLine
            text="Sharp at"
            label="Distance to what is sharp"
            unit="m"
            digits={2}
            min={0.05}
            max={10_000}
            placeholder="everything"
            value={shot.focus?.distanceM ?? null}
            onSettle={v => change({ focus: v === null ? null : { distanceM: v, fNumber: shot.focus?.fNumber ?? 4 } })}
          />
          {shot.focus && (
            <FigureLine
              text="Aperture, f/"
              label="Aperture as f-number"
              digits={1}
              min={0.5}
              max={64}
              value={shot.focus.fNumber}
              onSettle={v => v !== null && shot.focus && change({ focus: { ...shot.focus, fNumber: v } })}
            />
          )}
          <CheckBox label="Verticals upright" checked={shot.isUpright} onChange={isUpright => change({ isUpright })} />
          <Button
            variant="bare"
            className="-ml-3 self-start"
            onClick={() => {
              session.act({ shots: { [id]: null } })
              onGone()
            }}
          >
            Take this shot out
          </Button>
        </PopoverPanel>
      </Popover>
    </>
  )
}
