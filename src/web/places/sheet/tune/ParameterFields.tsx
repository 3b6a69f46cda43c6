import {
  type ColorParameter,
  isColorParameter,
  OPEN_PBR_DEFAULTS,
  type OpenPbrParameters,
  type ParameterName,
  type ScalarParameter,
} from '#core/material/open-pbr'
import { PARAMETER_GROUPS, type ParameterGroup, SCALAR_RANGES } from '#core/material/parameter-ranges'
import type { Vec3 } from '#core/math/vec3'
import { GROUP_WORDS, PARAMETER_WORDS } from '#shared/parameter-words'
import { formatNumber } from '#shared/units'
import { CheckBox } from '../../../components/controls/CheckBox'
import { ColorInput } from '../../../components/controls/ColorInput'

interface Props {
  constants: Partial<OpenPbrParameters>
  original: Partial<OpenPbrParameters>
  /** Parameters that a map gives. */
  mapped: ReadonlySet<string>
  onChange: (constants: Partial<OpenPbrParameters>) => void
}

/** Every parameter of a material, by layer; a layer that does nothing is folded away. */
export function ParameterFields({ constants, original, mapped, onChange }: Props) {
  return (
    <div className="grid grid-cols-2 gap-x-8">
      {(Object.keys(PARAMETER_GROUPS) as ParameterGroup[]).map(group => (
        <Group key={group} {...{ group, constants, original, mapped, onChange }} />
      ))}
    </div>
  )
}

function Group({ group, constants, original, mapped, onChange }: Props & { group: ParameterGroup }) {
  const names = PARAMETER_GROUPS[group]
  const isUsed = names.some(n => constants[n] !== undefined && constants[n] !== OPEN_PBR_DEFAULTS[n])
  return (
    <details open={group === 'base' || group === 'specular' || isUsed} className="border-t border-line py-2">
      <summary className="font-medium">{GROUP_WORDS[group]}</summary>
      <div className="mt-2 flex flex-col gap-1.5">
        {names.map(name => (
          <Field
            key={name}
            name={name}
            value={constants[name] ?? OPEN_PBR_DEFAULTS[name]}
            original={original[name] ?? OPEN_PBR_DEFAULTS[name]}
            isMapped={mapped.has(name)}
            onChange={value => onChange({ ...constants, [name]: value })}
          />
        ))}
      </div>
    </details>
  )
}

type Value = number | Vec3 | boolean

interface AnyFieldProps {
  name: ParameterName
  value: Value
  original: Value
  isMapped: boolean
  onChange: (value: Value) => void
}

function Field({ name, value, original, isMapped, onChange }: AnyFieldProps) {
  const label = <Name text={PARAMETER_WORDS[name]} changed={JSON.stringify(value) !== JSON.stringify(original)} />
  const row = 'grid h-6 grid-cols-[8.5rem_1fr] items-center gap-2 text-xs'
  if (isMapped)
    return (
      <p className={row}>
        {label}
        <span className="text-quiet">from its map</span>
      </p>
    )
  if (typeof value === 'boolean')
    return (
      <div className={row}>
        {label}
        <CheckBox label={PARAMETER_WORDS[name]} isLabelHidden checked={value} onChange={onChange} />
      </div>
    )
  return isColorParameter(name) ? (
    <ColorField label={label} name={name} value={value as Vec3} onChange={onChange} />
  ) : (
    <ScalarField label={label} name={name as ScalarParameter} value={value as number} onChange={onChange} />
  )
}

function Name({ text, changed }: { text: string; changed: boolean }) {
  return (
    <span className={`truncate ${changed ? 'font-semibold' : ''}`} title={text}>
      {text}
      {changed && <span className="sr-only"> (changed)</span>}
    </span>
  )
}

interface FieldProps<N, V> {
  label: React.ReactNode
  name: N
  value: V
  onChange: (value: V) => void
}

function ScalarField({ label, name, value, onChange }: FieldProps<ScalarParameter, number>) {
  const { min, max, usual, unit } = SCALAR_RANGES[name]
  const step = (usual - min) / 200
  return (
    <label className="grid h-6 grid-cols-[8.5rem_1fr_5.5rem] items-center gap-2 text-xs">
      {label}
      <input
        type="range"
        aria-label={PARAMETER_WORDS[name]}
        min={min}
        max={usual}
        step={step}
        value={Math.min(value, usual)}
        onChange={e => onChange(Number(e.target.value))}
        className="min-w-0 accent-ink"
      />
      <span className="flex items-center gap-1">
        <input
          type="number"
          aria-label={`${PARAMETER_WORDS[name]}, figure`}
          min={min}
          max={max}
          step="any"
          value={Number(value.toFixed(4))}
          onChange={e => {
            const next = Number(e.target.value)
            if (Number.isFinite(next)) onChange(Math.min(max, Math.max(min, next)))
          }}
          className="figures h-6 w-14 rounded-sm border border-edge bg-mount px-1 text-2xs"
        />
        <span className="text-2xs text-quiet">{unit}</span>
      </span>
    </label>
  )
}

function ColorField({ label, name, value, onChange }: FieldProps<ColorParameter, Vec3>) {
  return (
    <div className="grid h-6 grid-cols-[8.5rem_2.25rem_1fr] items-center gap-2 text-xs">
      {label}
      <ColorInput label={PARAMETER_WORDS[name]} value={value} onChange={onChange} />
      <span className="figures text-2xs text-quiet">linear {value.map(v => formatNumber(v, 3)).join('  ')}</span>
    </div>
  )
}
