import { X } from 'lucide-react'
import type { ReactNode } from 'react'
import { deliveredName } from '#core/hand-over/delivered-name'
import {
  COLOR_FILES,
  DATA_FILES,
  findPatternProblem,
  LENGTH_UNITS,
  MAP_FORMS,
  MAP_PACKINGS,
  MATERIAL_FORMS,
  MODEL_DETAILS,
  MODEL_FORMS,
  NORMAL_DIRECTIONS,
  type Profile,
  ROUGHNESS_WAYS,
  SKY_EXPOSURES,
  SKY_FORMS,
  SKY_HEADINGS,
  UP_AXES,
} from '#core/hand-over/profile'
import { EXPORT_SIZES } from '#shared/contracts/profiles.contract'
import {
  COLOR_FILE_WORDS,
  DATA_FILE_WORDS,
  EXPOSURE_WORDS,
  HEADING_WORDS,
  MAP_FORM_WORDS,
  MATERIAL_FORM_WORDS,
  MODEL_DETAIL_WORDS,
  MODEL_FORM_WORDS,
  NORMAL_WORDS,
  PACKING_WORDS,
  ROUGHNESS_WORDS,
  SKY_FORM_WORDS,
  sizeWord,
  UNIT_WORDS,
  UP_WORDS,
  usesSpace,
} from '#shared/profile-words'
import { useListCategoriesQuery } from '../../state/api'
import { CategoryChoice } from '../controls/CategoryChoice'
import { Choice, ChoiceField, optionsOf } from '../controls/Choice'
import { TextField } from '../controls/Field'
import { IconButton } from '../controls/IconButton'

interface Props {
  profile: Profile
  onChange: (profile: Profile) => void
  disabled?: boolean
}

/** A made-up item that shows what names come out as. */
const EXAMPLE = { code: 'TIM-0042', name: 'Oak plank, fumed', version: 3, category: 'oak', maker: 'Oddmere Surfaces' }

/** Everything that a profile says, by what is handed over. */
export function ProfileFields({ profile, onChange, disabled = false }: Props) {
  const set = (patch: Partial<Profile>) => onChange({ ...profile, ...patch })
  const isFixed = profile.materials === 'gltf'
  const choice = <K extends keyof Profile, V extends Extract<Profile[K], string>>(
    key: K,
    label: string,
    values: readonly V[],
    words: Readonly<Record<V, string>>,
    isOff = false,
  ) => (
    <ChoiceField<V>
      label={label}
      value={profile[key] as V}
      disabled={disabled || isOff}
      onChange={value => set({ [key]: value } as Partial<Profile>)}
      options={optionsOf(values, words)}
    />
  )
  const pattern = (key: 'folderName' | 'textureName', label: string, needed: readonly string[]) => (
    <TextField
      label={label}
      value={profile[key]}
      disabled={disabled}
      error={findPatternProblem(profile[key], needed) ?? undefined}
      hint={deliveredName(profile[key], { ...EXAMPLE, map: 'roughness' })}
      onChange={event => set({ [key]: event.target.value } as Partial<Profile>)}
    />
  )
  return (
    <div className="flex flex-col gap-5">
      <Group title="Materials">
        {choice('materials', 'Materials as', MATERIAL_FORMS, MATERIAL_FORM_WORDS)}
        {choice('normals', 'Normal maps', NORMAL_DIRECTIONS, NORMAL_WORDS, isFixed)}
        {choice('roughness', 'Roughness told as', ROUGHNESS_WAYS, ROUGHNESS_WORDS, isFixed)}
        {choice('packing', 'Occlusion, roughness, metalness', MAP_PACKINGS, PACKING_WORDS, isFixed)}
        {choice('colorFiles', 'Colour files', COLOR_FILES, COLOR_FILE_WORDS)}
        {choice('dataFiles', 'Files of everything else', DATA_FILES, DATA_FILE_WORDS, isFixed)}
      </Group>
      {isFixed && (
        <p className="-mt-3 text-xs text-quiet">
          glTF itself says how: green up, roughness and metalness packed, 8 bits; colour as PNG, or as JPEG where that is chosen.
        </p>
      )}
      <Group title="Models">
        {choice('models', 'Models as', MODEL_FORMS, MODEL_FORM_WORDS)}
        {choice('modelDetail', 'Detail of models', MODEL_DETAILS, MODEL_DETAIL_WORDS)}
        {choice('unit', 'Lengths in', LENGTH_UNITS, UNIT_WORDS, !usesSpace(profile))}
        {choice('upAxis', 'Axes', UP_AXES, UP_WORDS, !usesSpace(profile))}
      </Group>
      <Group title="Skies and single maps">
        {choice('environments', 'Skies as', SKY_FORMS, SKY_FORM_WORDS)}
        {choice('skyExposure', 'Exposure of skies', SKY_EXPOSURES, EXPOSURE_WORDS)}
        {choice('skyHeading', 'Heading of skies', SKY_HEADINGS, HEADING_WORDS)}
        {choice('maps', 'Single maps as', MAP_FORMS, MAP_FORM_WORDS)}
      </Group>
      <Sizes profile={profile} onChange={onChange} disabled={disabled} />
      <div className="grid grid-cols-2 gap-x-4 gap-y-3">
        {pattern('folderName', 'Names of folders and of what lies in them', ['code'])}
        {pattern('textureName', 'Names of textures', ['code', 'map'])}
      </div>
    </div>
  )
}

const Group = ({ title, children }: { title: string; children: ReactNode }) => (
  <fieldset>
    <legend className="mb-2 text-sm font-medium">{title}</legend>
    <div className="grid grid-cols-3 gap-x-4 gap-y-3">{children}</div>
  </fieldset>
)

const SIZE_OPTIONS = [null, ...EXPORT_SIZES].map(px => ({ value: String(px ?? ''), text: sizeWord(px) }))
const toSize = (value: string): number | null => (value === '' ? null : Number(value))

function Sizes({ profile, onChange, disabled }: Required<Props>) {
  const { data: categories = [] } = useListCategoriesQuery()
  const { sizes } = profile
  const titleOf = (path: string) => categories.find(c => c.path === path)?.title ?? path
  const setSizes = (next: Profile['sizes']) => onChange({ ...profile, sizes: next })
  return (
    <fieldset>
      <legend className="mb-2 text-sm font-medium">Largest side of textures, width of skies</legend>
      <ul className="flex flex-col gap-1">
        <li className="flex items-center gap-3">
          <span className="w-56 text-xs">everything</span>
          <Choice
            label="Largest side"
            className="w-32"
            value={String(profile.maxSizePx ?? '')}
            disabled={disabled}
            onChange={px => onChange({ ...profile, maxSizePx: toSize(px) })}
            options={SIZE_OPTIONS}
          />
        </li>
        {sizes.map(size => (
          <li key={size.category} className="flex items-center gap-3">
            <span className="w-56 truncate text-xs">{titleOf(size.category)}</span>
            <Choice
              label={`Largest side in ${titleOf(size.category)}`}
              className="w-32"
              value={String(size.maxSizePx ?? '')}
              disabled={disabled}
              onChange={px => setSizes(sizes.map(s => (s === size ? { ...s, maxSizePx: toSize(px) } : s)))}
              options={SIZE_OPTIONS}
            />
            {!disabled && (
              <IconButton
                look="small"
                label={`${titleOf(size.category)} as everything`}
                onClick={() => setSizes(sizes.filter(s => s !== size))}
              >
                <X aria-hidden className="size-3.5" />
              </IconButton>
            )}
          </li>
        ))}
        {!disabled && (
          <li>
            <CategoryChoice
              label="Another size for a category"
              className="w-56"
              none="another size for a category"
              categories={categories.filter(c => !sizes.some(s => s.category === c.path))}
              value=""
              onChange={category => category !== '' && setSizes([...sizes, { category, maxSizePx: profile.maxSizePx }])}
            />
          </li>
        )}
      </ul>
    </fieldset>
  )
}
