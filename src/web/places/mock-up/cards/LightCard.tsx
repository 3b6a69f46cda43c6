import { Eye, EyeOff, Trash2 } from 'lucide-react'
import { NO_TURN, type Quaternion, turnAbout } from '#core/math/quaternion'
import { lumensOf } from '#core/mock-up/light/lamps'
import type { Light, Scene } from '#core/mock-up/scene/scene'
import { Button } from '../../../components/controls/Button'
import { CheckBox } from '../../../components/controls/CheckBox'
import { Choice } from '../../../components/controls/Choice'
import { DraftField } from '../../../components/controls/DraftField'
import { NumberInput } from '../../../components/controls/NumberInput'
import { FigureLine } from '../../../components/FigureLine'
import { Line } from '../../../components/Line'
import type { MockUpSession } from '../state/mock-up-session'
import type { LiveResources } from '../state/use-resources'

const TOWARDS: Record<string, { text: string; turn: Quaternion }> = {
  down: { text: 'down', turn: NO_TURN },
  up: { text: 'up', turn: turnAbout([1, 0, 0], 180) },
  north: { text: 'north', turn: turnAbout([1, 0, 0], 90) },
  south: { text: 'south', turn: turnAbout([1, 0, 0], -90) },
  east: { text: 'east', turn: turnAbout([0, 0, 1], 90) },
  west: { text: 'west', turn: turnAbout([0, 0, 1], -90) },
}
const KIND_WORDS: Record<Light['kind'], string> = { bulb: 'A ball', panel: 'A panel', luminaire: 'A luminaire' }

interface Props {
  scene: Scene
  session: MockUpSession
  webs: LiveResources['webs']
  id: string
  onGone: () => void
}

/** What concerns a light: how much it gives, of which white, where it stands and which way it shines. */
export function LightCard({ scene, session, webs, id, onGone }: Props) {
  const light = scene.lights[id]
  const change = (next: Partial<Light>) => session.act({ lights: { [id]: { ...light, ...next } } })
  const web = light.item ? (webs.get(light.item.inputKey) ?? null) : null
  const gives = lumensOf(light, web)
  const towards = Object.entries(TOWARDS).find(([, t]) => t.turn.every((v, k) => Math.abs(v - light.turn[k]) < 1e-6))?.[0]
  const at = (axis: number, v: number | null) => {
    if (v === null) return
    const position: Light['position'] = [...light.position]
    position[axis] = v
    change({ position })
  }
  const setSize = (axis: 0 | 1, v: number | null) => {
    if (v === null || v <= 0) return
    change({ sizeM: light.kind === 'bulb' ? [v, v] : axis === 0 ? [v, light.sizeM[1]] : [light.sizeM[0], v] })
  }
  return (
    <div className="flex flex-col gap-2.5">
      <header>
        <DraftField
          label="Name of the light"
          value={light.name}
          onSettle={name => name.trim() !== '' && change({ name: name.trim() })}
        />
        <p className="mt-1 text-xs text-quiet">
          {KIND_WORDS[light.kind]}
          {light.item && <span className="figures"> {light.item.code}</span>}, gives{' '}
          <span className="figures">{Math.round(gives).toLocaleString('en')} lm</span>
          {light.kind === 'luminaire' && !web && '; its curve is not there'}
        </p>
      </header>
      <FigureLine
        text="Luminous flux"
        unit="lm"
        digits={0}
        min={0}
        max={10_000_000}
        placeholder={light.kind === 'luminaire' ? 'by its curve' : undefined}
        value={light.lumens}
        onSettle={lumens => (lumens !== null || light.kind === 'luminaire') && change({ lumens })}
      />
      <FigureLine
        text="Dimmed to"
        unit="%"
        digits={0}
        min={0}
        max={100}
        value={light.share * 100}
        onSettle={v => v !== null && change({ share: v / 100 })}
      />
      <FigureLine
        text="Colour temperature"
        unit="K"
        digits={0}
        min={1700}
        max={12_000}
        placeholder={web?.cctK ? String(web.cctK) : 'white'}
        value={light.kelvin}
        onSettle={kelvin => change({ kelvin })}
      />
      {light.kind !== 'luminaire' && (
        <FigureLine
          text={light.kind === 'bulb' ? 'Diameter' : 'Across'}
          unit="m"
          digits={3}
          min={0.001}
          max={50}
          value={light.sizeM[0]}
          onSettle={v => setSize(0, v)}
        />
      )}
      {light.kind === 'panel' && (
        <FigureLine text="Along" unit="m" digits={3} min={0.001} max={50} value={light.sizeM[1]} onSettle={v => setSize(1, v)} />
      )}
      {light.kind !== 'bulb' && (
        <Line text="Shines">
          <Choice
            label="Shines"
            value={towards ?? 'own'}
            onChange={value => TOWARDS[value] && change({ turn: TOWARDS[value].turn })}
            options={[
              ...Object.entries(TOWARDS).map(([value, { text }]) => ({ value, text })),
              ...(towards ? [] : [{ value: 'own', text: 'turned by hand' }]),
            ]}
            className="w-28"
          />
        </Line>
      )}
      <div className="grid grid-cols-3 gap-1.5">
        {PLACES.map(({ text, axis }) => (
          <span key={axis} className="min-w-0">
            <span aria-hidden className="block text-2xs text-quiet">
              {text}
            </span>
            <NumberInput
              label={`The light to the ${text}`}
              digits={3}
              min={-1000}
              max={1000}
              value={light.position[axis]}
              onSettle={v => at(axis, v)}
            />
          </span>
        ))}
      </div>
      <CheckBox label="Seen itself" checked={light.isSeen} onChange={isSeen => change({ isSeen })} />
      <div className="-ml-3 flex gap-1">
        <Button variant="bare" onClick={() => change({ isHidden: !light.isHidden })}>
          {light.isHidden ? <Eye aria-hidden className="size-3.5" /> : <EyeOff aria-hidden className="size-3.5" />}
          {light.isHidden ? 'Switch on' : 'Switch off'}
        </Button>
        <Button
          variant="bare"
          onClick={() => {
            session.act({ lights: { [id]: null } })
            onGone()
          }}
        >
          <Trash2 aria-hidden className="size-3.5" />
          Take out
        </Button>
      </div>
    </div>
  )
}

const PLACES = [
  { text: 'East, m', axis: 0 },
  { text: 'South, m', axis: 2 },
  { text: 'Height, m', axis: 1 },
] as const
