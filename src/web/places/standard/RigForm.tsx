import { useEffect } from 'react'
import { useForm } from 'react-hook-form'
import { type Rig, STAGE_KIND, STAGES } from '#core/render/rigs/rig'
import { type RigView, rigChangeSchema } from '#shared/contracts/rigs.contract'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { optionsOf } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { FormCheck, FormChoice } from '../../components/controls/FormFields'
import { parseNumber } from '../../components/controls/parse-number'
import { useProposeRigMutation } from '../../state/api'
import { FRAMING_WORDS, STAGE_WORDS } from '../../words/rigs'

const toFigure = (typed: string | number): number => (typeof typed === 'number' ? typed : parseNumber(typed))

/** The recipe as flat fields; backdrops as a line of figures. */
type Values = Omit<Rig, 'name' | 'revision' | 'backdrops'> & { backdrops: string }

const toValues = ({ name: _, revision: __, backdrops, ...rest }: Rig): Values => ({ ...rest, backdrops: backdrops.join(', ') })
const toChange = ({ backdrops, ...rest }: Values) => ({
  ...rest,
  backdrops: backdrops
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number),
})

export function RigForm({ view, mayEdit }: { view: RigView; mayEdit: boolean }) {
  const { rig } = view
  const [propose, { isLoading }] = useProposeRigMutation()
  // With a trial open, the form shows what is on trial, to be changed further.
  const shown = view.proposal?.rig ?? rig
  const { control, register, handleSubmit, formState, setError, reset } = useForm<Values>({ defaultValues: toValues(shown) })
  const { errors, isDirty } = formState
  // biome-ignore lint/correctness/useExhaustiveDependencies: another revision, another start
  useEffect(() => reset(toValues(shown)), [shown.revision])
  const onSubmit = handleSubmit(async values => {
    const parsed = rigChangeSchema.safeParse(toChange(values))
    if (!parsed.success) {
      for (const issue of parsed.error.issues) {
        const path = issue.path[0] === 'backdrops' ? 'backdrops' : issue.path.join('.')
        setError(path as keyof Values, { message: issue.message })
      }
      return
    }
    const result = await propose({ name: rig.name, ...parsed.data })
    if (result.error) tellProblem(result.error)
  })
  const number = { setValueAs: toFigure } as const
  const at = (path: string): string | undefined =>
    path.split('.').reduce<unknown>((o, k) => (o as Record<string, unknown> | undefined)?.[k], errors) !== undefined
      ? ((path.split('.').reduce<unknown>((o, k) => (o as Record<string, unknown>)?.[k], errors) as { message?: string })
          .message ?? 'Not a fitting value.')
      : undefined
  const group = 'grid grid-cols-2 gap-x-3 gap-y-2'
  return (
    <form onSubmit={onSubmit} aria-label={`Recipe of ${rig.title}`}>
      <fieldset disabled={!mayEdit} className="flex flex-col gap-5">
        <div className="flex flex-col gap-2">
          <TextField label="Title" error={at('title')} {...register('title')} />
          <FormChoice
            label="Stage"
            control={control}
            name="stage"
            disabled={!mayEdit}
            options={optionsOf(
              STAGES.filter(s => STAGE_KIND[s] === STAGE_KIND[rig.stage]),
              STAGE_WORDS,
            )}
          />
        </div>
        <Group title="Camera">
          <div className={group}>
            <TextField label="Round" unit="°" error={at('camera.azimuthDeg')} {...register('camera.azimuthDeg', number)} />
            <TextField label="Up" unit="°" error={at('camera.elevationDeg')} {...register('camera.elevationDeg', number)} />
            <TextField label="Focal length" unit="mm" error={at('camera.focalMm')} {...register('camera.focalMm', number)} />
            <TextField
              label="Takes, share 0–1"
              inputMode="decimal"
              error={at('camera.coverage')}
              {...register('camera.coverage', number)}
            />
          </div>
          <FormChoice
            label="Measured by"
            control={control}
            name="camera.framing"
            disabled={!mayEdit}
            options={optionsOf(['shorterSide', 'fill'], FRAMING_WORDS)}
          />
        </Group>
        <Group title="Light and backdrop">
          <div className={group}>
            <TextField label="Light turned" unit="°" error={at('lightTurnDeg')} {...register('lightTurnDeg', number)} />
            <TextField label="Exposure" unit="EV" error={at('exposureEv')} {...register('exposureEv', number)} />
          </div>
          <TextField
            label="Backdrop albedos, preferred first"
            hint="The first that stands out from the item is taken."
            error={at('backdrops')}
            {...register('backdrops')}
          />
          <TextField label="Least contrast" unit="L*" error={at('minContrast')} {...register('minContrast', number)} />
          <FormCheck label="A scale bar beside it" control={control} name="scaleBar" disabled={!mayEdit} />
        </Group>
        <Group title="Draft and final">
          <div className="grid grid-cols-[auto_1fr_1fr] items-end gap-x-3 gap-y-2">
            <span />
            <span className="text-xs text-quiet">draft</span>
            <span className="text-xs text-quiet">final</span>
            <QualityRow label="Width, px" field="width" register={register} errorAt={at} />
            <QualityRow label="Noise, steps of 255" field="noiseSteps" register={register} errorAt={at} />
            <QualityRow label="Samples at most" field="maxSamples" register={register} errorAt={at} />
          </div>
        </Group>
        {mayEdit && (
          <div className="sticky bottom-0 -mx-1 flex items-center gap-2 bg-surround px-1 py-2">
            <Button type="submit" variant={view.proposal ? 'plain' : 'next'} disabled={!isDirty || isLoading}>
              Try on three items
            </Button>
            {isDirty && (
              <Button variant="bare" onClick={() => reset(toValues(shown))}>
                As it was
              </Button>
            )}
          </div>
        )}
        <p className="text-xs text-quiet">
          Every picture has the aspect <span className="figures">4 : 3</span>; both are filtered for noise, and a tile is done
          when the error that is left is estimated to be below the target. At{' '}
          <span className="figures">{formatNumber(rig.final.noiseSteps)}</span> steps it cannot be seen.
        </p>
      </fieldset>
    </form>
  )
}

function Group({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <fieldset className="flex flex-col gap-2 border-t border-line pt-3">
      <legend className="float-left mb-2 font-medium">{title}</legend>
      {children}
    </fieldset>
  )
}

interface QualityRowProps {
  label: string
  field: 'width' | 'noiseSteps' | 'maxSamples'
  register: ReturnType<typeof useForm<Values>>['register']
  errorAt: (path: string) => string | undefined
}

function QualityRow({ label, field, register, errorAt }: QualityRowProps) {
  const input = (quality: 'draft' | 'final') => (
    <TextField
      label=""
      aria-label={`${label}, ${quality}`}
      inputMode="decimal"
      error={errorAt(`${quality}.${field}`)}
      {...register(`${quality}.${field}`, { setValueAs: toFigure })}
    />
  )
  return (
    <>
      <span className="flex h-8 items-center text-xs text-quiet">{label}</span>
      {input('draft')}
      {input('final')}
    </>
  )
}
