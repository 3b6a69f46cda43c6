import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import { ChevronDown, SunMedium } from 'lucide-react'
import { useRef } from 'react'
import { sunOfSky } from '#core/mock-up/light/sky-map'
import { beginSky } from '#core/mock-up/scene/begin'
import { clearSkySchema, type Scene, SKY_BACKGROUNDS, type Sky } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { FigureLine } from '../../../components/FigureLine'
import { Line } from '../../../components/Line'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { readRemembered, remember } from '../../../state/remembered'
import type { MockUpSession } from '../state/mock-up-session'
import { newId } from '../state/new-id'
import { ClearSkyFields } from './ClearSkyFields'
import { SkyDial, wrapTurn } from './SkyDial'

interface Props {
  scene: Scene
  session: MockUpSession
  items: ReadonlyMap<string, MockUpItem>
  /** Of the skies, the one in use; null for the house light. */
  sky: string | null
  onSky: (sky: string | null) => void
}

/** Where panoramas are mostly taken from. */
const EYE_HEIGHT_M = 1.6

/** Of who has worked nowhere yet: a summer morning in the middle of Europe. */
const NOON = { latitudeDeg: 48, longitudeDeg: 11, at: '2026-06-21T09:00:00.000Z', turbidity: 2.5 }

/** The light in use, its turn, brightness and what of it is seen; and the others to change to. */
export function SkyPanel({ scene, session, items, sky: id, onSky }: Props) {
  const sky = id === null ? undefined : scene.skies[id]
  const item = sky?.item ? items.get(sky.item.inputKey) : undefined
  const sun = sky ? sunOfSky(sky, item?.sun ?? null) : null
  const gesture = useRef(0)
  const change = (next: Partial<Sky>, name: string | null = null) => {
    if (next.clear) remember('clear sky', next.clear)
    if (id !== null && sky) session.act({ skies: { [id]: { ...sky, ...next } } }, name)
  }
  const addClear = () => {
    const key = newId()
    session.act({ skies: { [key]: beginSky('Clear sky', { clear: readRemembered('clear sky', clearSkySchema, NOON) }) } })
    onSky(key)
  }
  return (
    <Popover className="relative">
      <PopoverButton
        aria-label={`Light: ${sky?.name ?? 'House light'}`}
        className="flex h-8 max-w-56 items-center gap-1.5 rounded-sm border border-edge bg-mount px-3 hover:border-ink"
      >
        <SunMedium aria-hidden className="size-3.5 shrink-0" />
        <span className="truncate">{sky?.name ?? 'House light'}</span>
        <ChevronDown aria-hidden className="size-3.5 shrink-0 text-quiet" />
      </PopoverButton>
      <PopoverPanel
        anchor={{ to: 'bottom start', gap: 4, padding: 8 }}
        className="z-50 w-80 rounded-sm border border-edge bg-sheet p-4 shadow-lg"
      >
        {sky ? (
          <div className="mb-4 flex gap-4">
            <SkyDial
              sun={sun}
              turnDeg={sky.turnDeg}
              onTurn={(turnDeg, isLast) => {
                change({ turnDeg }, `turn ${gesture.current}`)
                if (isLast) gesture.current++
              }}
            />
            <div className="flex min-w-0 flex-1 flex-col gap-2">
              <span className="text-xs text-quiet">
                {sun
                  ? `Sun ${Math.round(sun.elevationDeg)}° high, ${Math.round((wrapTurn(sun.azimuthDeg - sky.turnDeg) + 360) % 360)}° from north`
                  : 'No sun in it'}
              </span>
              <FigureLine
                text="Turn"
                unit="°"
                digits={1}
                min={-360}
                max={360}
                value={sky.turnDeg}
                onSettle={v => v !== null && change({ turnDeg: wrapTurn(v) })}
                className="w-24"
              />
              <FigureLine
                text="Brightness"
                label="Brightness over the house exposure"
                unit="EV"
                digits={2}
                min={-12}
                max={12}
                value={sky.ev}
                onSettle={v => v !== null && change({ ev: v })}
                className="w-24"
              />
              <Line text="Behind">
                <Choice
                  label="Behind everything"
                  value={sky.background}
                  onChange={background => change({ background })}
                  options={SKY_BACKGROUNDS.map(value => ({ value, text: BACKGROUND_WORDS[value] }))}
                  className="w-28"
                />
              </Line>
              <Line text="Ground">
                <Choice
                  label="Ground under things"
                  value={sky.groundFromM ? 'sky' : 'stage'}
                  onChange={of => change({ groundFromM: of === 'sky' ? EYE_HEIGHT_M : null })}
                  options={[
                    { value: 'stage', text: "the stage's" },
                    { value: 'sky', text: "the sky's" },
                  ]}
                  className="w-28"
                />
              </Line>
              {sky.groundFromM && (
                <FigureLine
                  text="Height"
                  label="Height of the panorama's camera over its ground"
                  unit="m"
                  digits={2}
                  min={0.1}
                  max={500}
                  value={sky.groundFromM}
                  onSettle={v => v !== null && change({ groundFromM: v })}
                  className="w-24"
                />
              )}
              <Line text="Its sun">
                <Choice
                  label="Its sun"
                  value={sky.sun}
                  onChange={sun => change({ sun })}
                  options={[
                    { value: 'asItIs', text: 'as it is' },
                    { value: 'soft', text: 'softened' },
                    { value: 'none', text: 'left out' },
                  ]}
                  className="w-24"
                />
              </Line>
            </div>
          </div>
        ) : (
          <p className="mb-3 text-quiet">The even light of the house. Bring in a sky from the shelf to see it under that.</p>
        )}
        {sky?.clear && <ClearSkyFields clear={sky.clear} onChange={(clear, gesture) => change({ clear }, gesture)} />}
        <ul className="grid grid-cols-3 gap-2" aria-label="Skies of this mock-up">
          <li>
            <button
              type="button"
              aria-pressed={id === null}
              onClick={() => onSky(null)}
              className={`flex aspect-[4/3] w-full items-center justify-center bg-mount text-xs ${id === null ? 'outline-2 outline-ink' : 'hover:outline hover:outline-edge'}`}
            >
              House light
            </button>
          </li>
          {Object.entries(scene.skies).map(([key, s]) => (
            <li key={key} className="min-w-0">
              <button
                type="button"
                aria-pressed={key === id}
                title={s.name}
                onClick={() => onSky(key)}
                className={`block w-full ${key === id ? 'outline-2 outline-ink' : 'hover:outline hover:outline-edge'}`}
              >
                {s.item ? (
                  <PreviewFrame url={items.get(s.item.inputKey)?.preview ?? null} alt={s.name} />
                ) : (
                  <span className="flex aspect-[4/3] w-full items-center justify-center bg-mount text-xs">{s.name}</span>
                )}
              </button>
            </li>
          ))}
        </ul>
        <Button variant="bare" className="mt-3 -ml-3" onClick={addClear}>
          Add a clear sky by place and time
        </Button>
        {id !== null && sky && (
          <Button
            variant="bare"
            className="-ml-3 block"
            onClick={() => {
              session.act({ skies: { [id]: null } })
              onSky(null)
            }}
          >
            Take this sky out
          </Button>
        )}
      </PopoverPanel>
    </Popover>
  )
}

const BACKGROUND_WORDS: Record<Sky['background'], string> = { shown: 'the sky', blurred: 'blurred', plain: 'even grey' }
