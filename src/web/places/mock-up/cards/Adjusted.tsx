import { X } from 'lucide-react'
import { useState } from 'react'
import { isColorParameter, type OpenPbrMaterial, type ScalarParameter } from '#core/material/open-pbr'
import { SCALAR_RANGES } from '#core/material/parameter-ranges'
import { isShifted, joinTint, type MaterialShift, NO_SHIFT, splitTint } from '#core/material/shift'
import type { Vec3 } from '#core/math/vec3'
import type { Assignment } from '#core/mock-up/scene/scene'
import { PARAMETER_WORDS } from '#shared/parameter-words'
import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { ColorInput } from '../../../components/controls/ColorInput'
import { NumberInput } from '../../../components/controls/NumberInput'
import { FigureLine } from '../../../components/FigureLine'
import { Line } from '../../../components/Line'

interface Props {
  worn: Assignment
  /** As the library has it; not there while it is being opened. */
  material: OpenPbrMaterial | undefined
  /** @param key what belongs to one movement of a hand is taken back as one */
  onChange: (next: Partial<Assignment>, key?: string) => void
  onPropose: () => void
}

/** What is adjusted on a part alone: its colour, roughness and relief as a whole, and any parameter that no map gives. */
export function Adjusted({ worn, material, onChange, onPropose }: Props) {
  const shift = worn.shift ?? NO_SHIFT
  const isAdjusted = isShifted(shift) || Object.keys(worn.override).length > 0
  const [isOpen, setOpen] = useState(isAdjusted)
  const setShift = (next: Partial<MaterialShift>, key?: string) => {
    const whole: MaterialShift = { ...shift, ...next }
    onChange({ shift: isShifted(whole) ? whole : undefined }, key)
  }
  const { color, stops } = splitTint(shift.tint)
  return (
    <details open={isOpen} onToggle={event => setOpen(event.currentTarget.open)} className="border-t border-line pt-1.5">
      <summary className="cursor-pointer">
        {isAdjusted ? <b className="font-semibold">Adjusted here</b> : 'Adjust it here'}
      </summary>
      <div className="mt-1.5 flex flex-col gap-1.5">
        <Line text="Tinted">
          <ColorInput
            label="Tint"
            value={color}
            onChange={next => setShift({ tint: joinTint({ color: splitTint(next).color, stops }) }, 'tint')}
          />
        </Line>
        <Factor
          text="Lighter by"
          unit="EV"
          value={stops}
          at={0}
          range={[-4, 4]}
          onSettle={v => setShift({ tint: joinTint({ color, stops: v }) })}
        />
        <Factor
          text="Roughness times"
          value={shift.roughness}
          at={1}
          range={[0, 8]}
          onSettle={roughness => setShift({ roughness })}
        />
        {material?.textures.geometryNormal && (
          <Factor text="Relief times" value={shift.relief} at={1} range={[0, 8]} onSettle={relief => setShift({ relief })} />
        )}
        <OwnParameters worn={worn} material={material} onChange={onChange} />
        {isAdjusted && (
          <div className="-ml-3 flex">
            <Button variant="bare" onClick={() => onChange({ shift: undefined, override: {} })}>
              As the library has it
            </Button>
            <Button variant="bare" onClick={onPropose}>
              Propose it
            </Button>
          </div>
        )}
      </div>
    </details>
  )
}

interface FactorProps {
  text: string
  value: number
  /** Where it changes nothing; what an empty field means. */
  at: number
  range: readonly [number, number]
  unit?: string
  onSettle: (value: number) => void
}

const Factor = ({ text, value, at, range: [min, max], unit, onSettle }: FactorProps) => (
  <FigureLine text={text} unit={unit} digits={2} min={min} max={max} value={value} onSettle={v => onSettle(v ?? at)} />
)

/** Parameters that were set to another value here. Those that a map gives are shifted as a whole instead. */
function OwnParameters({ worn, material, onChange }: Pick<Props, 'worn' | 'material' | 'onChange'>) {
  const names = Object.keys(worn.override)
  const set = (name: string, value: number | Vec3 | null) => {
    const { [name]: _, ...rest } = worn.override
    onChange({ override: value === null ? rest : { ...rest, [name]: value } }, `parameter ${name}`)
  }
  const free = material
    ? (Object.keys(PARAMETER_WORDS) as (keyof typeof PARAMETER_WORDS)[]).filter(
        name =>
          typeof material.parameters[name] !== 'boolean' && !(name in material.textures) && worn.override[name] === undefined,
      )
    : []
  return (
    <>
      {names.map(name => {
        const value = worn.override[name]
        const word = PARAMETER_WORDS[name as keyof typeof PARAMETER_WORDS] ?? name
        const range = SCALAR_RANGES[name as ScalarParameter]
        return (
          <Line key={name} text={word}>
            <span className="flex items-center gap-1">
              {Array.isArray(value) ? (
                <ColorInput label={word} value={[value[0], value[1], value[2]]} onChange={next => set(name, next)} />
              ) : (
                <NumberInput
                  label={word}
                  digits={3}
                  unit={range?.unit || undefined}
                  min={range?.min}
                  max={range?.max}
                  value={value}
                  onSettle={v => set(name, v)}
                  className="w-24"
                />
              )}
              <button
                type="button"
                aria-label={`${word} as the library has it`}
                title="As the library has it"
                onClick={() => set(name, null)}
                className="flex size-6 items-center justify-center rounded-sm text-quiet hover:bg-mount hover:text-ink"
              >
                <X aria-hidden className="size-3.5" />
              </button>
            </span>
          </Line>
        )
      })}
      {free.length > 0 && material && (
        <Choice
          label="Another parameter"
          value=""
          onChange={name => {
            const value = material.parameters[name as keyof typeof PARAMETER_WORDS]
            if (typeof value !== 'boolean') set(name, isColorParameter(name) ? ([...(value as Vec3)] as Vec3) : (value as number))
          }}
          options={[
            { value: '', text: 'Another parameter' },
            ...free.map(name => ({ value: name, text: PARAMETER_WORDS[name] })),
          ]}
          className="w-full"
        />
      )}
    </>
  )
}
