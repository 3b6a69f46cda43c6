import { useEffect } from 'react'
import { useForm } from 'react-hook-form'
import { useParams } from 'react-router'
import { toast } from 'sonner'
import { type Rig, STAGE_KIND, STAGES } from '#core/render/rigs/rig'
import { type RigView, rigChangeSchema } from '#shared/contracts/rigs.contract'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { optionsOf } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { FormCheck, FormChoice } from '../../components/controls/FormFields'
import { parseNumber } from '../../components/controls/parse-number'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useListRigsQuery, useProposeRigMutation, useRerenderOlderMutation } from '../../state/api'
import { FRAMING_WORDS, STAGE_WORDS } from '../../words/rigs'
import { plural } from '../../words/states'
import { RerenderList } from './RerenderList'
import { Trial } from './Trial'

/** One rig: its recipe, and a change to it on trial. */
export function RigPlace() {
  const { name } = useParams()
  const { data: list, error, refetch } = useListRigsQuery()
  if (error) return <Trouble error={error} onRetry={refetch} />
  const view = list?.rigs.find(r => r.rig.name === name)
  if (list && !view) return <EmptyState title="There is no such rig." />
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        {list && view ? (
          <>
            <Heading view={view} mayEdit={list.mayEdit} />
            <div className="mt-5 grid grid-cols-[19rem_minmax(0,1fr)] gap-10">
              <RigForm key={view.rig.revision} view={view} mayEdit={list.mayEdit} />
              <div className="sticky top-0 flex flex-col gap-8 self-start">
                {view.proposal ? (
                  <section className="bg-sheet p-4">
                    <Trial
                      proposal={view.proposal}
                      mayEdit={list.mayEdit}
                      title={`Revision ${view.proposal.rig.revision} on trial`}
                    />
                  </section>
                ) : (
                  <section>
                    <div className="max-w-2xl">
                      {view.sample ? (
                        <PreviewFrame url={view.sample} alt={`A picture made on ${view.rig.title}`} />
                      ) : (
                        <p className="flex aspect-[4/3] items-center justify-center bg-mount text-quiet">
                          No picture was made on this revision yet.
                        </p>
                      )}
                    </div>
                    {list.mayEdit && (
                      <p className="mt-2 max-w-lg text-xs text-quiet">
                        Change something on the left and try it: three items are shown before and after, and nothing changes for
                        anybody until you adopt it.
                      </p>
                    )}
                  </section>
                )}
                {list.rerenders.length > 0 && <RerenderList list={list} />}
              </div>
            </div>
          </>
        ) : (
          <Skeleton className="mt-4 h-96" />
        )}
      </div>
    </Page>
  )
}

function Heading({ view, mayEdit }: { view: RigView; mayEdit: boolean }) {
  const [rerender, { isLoading }] = useRerenderOlderMutation()
  const onRerender = async () => {
    const result = await rerender({ name: view.rig.name })
    if (result.error) tellProblem(result.error)
    else if (result.data?.rerenderId) toast('Older pictures are rendered anew in the background.')
  }
  return (
    <>
      <PageHead
        className="pb-1"
        from={{ to: '/standard', text: 'Standard' }}
        title={view.rig.title}
        actions={
          mayEdit &&
          view.older > 0 && (
            <Button onClick={onRerender} disabled={isLoading}>
              Render the older ones anew
            </Button>
          )
        }
      />
      <p className="text-quiet">
        {view.isShipped ? 'As shipped' : 'Ours'}, revision {view.rig.revision}.{' '}
        {view.categories.length > 0 ? view.categories.map(c => c.title).join(', ') : 'No category uses it'}.{' '}
        {plural(view.items, 'item')}
        {view.older > 0 && `, ${view.older} with an older picture`}.
      </p>
    </>
  )
}

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

function RigForm({ view, mayEdit }: { view: RigView; mayEdit: boolean }) {
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
          Every picture has the aspect <span className="figures">4 : 3</span>; a draft is filtered for noise, a final never is. At{' '}
          <span className="figures">{formatNumber(rig.final.noiseSteps)}</span> steps a final's noise cannot be seen.
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
