import { Link, useNavigate } from 'react-router'
import { type NewProject, newProjectSchema, type ProjectSummary } from '#shared/contracts/projects.contract'
import type { Session } from '#shared/contracts/session.contract'
import { Covers } from '../../components/Covers'
import { Button } from '../../components/controls/Button'
import { TextField } from '../../components/controls/Field'
import { FormChoice } from '../../components/controls/FormFields'
import { useZodForm } from '../../components/controls/use-zod-form'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { toProblem, useCreateProjectMutation, useListProjectsQuery, usePrefetch } from '../../state/api'
import { plural } from '../../words/states'
import { MockUpsPanel } from '../mock-up/MockUpsPanel'
import { RevisionsPanel } from './RevisionsPanel'

export function ProjectsPlace({ session }: { session: Session }) {
  const isGuest = session.person?.role === 'guest'
  const { data: projects, error, refetch } = useListProjectsQuery()
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          title="Projects"
          facts={isGuest ? 'What the studio shows you' : 'What each job uses, at which version'}
          actions={
            !isGuest && (
              <Link to="/projects/check" className="underline hover:text-ink">
                Check a hand-over
              </Link>
            )
          }
        />
      </div>
      <div className={`mx-auto grid max-w-[100rem] gap-8 ${isGuest ? '' : 'grid-cols-[minmax(0,1fr)_19rem]'}`}>
        <section>
          {error ? (
            <Trouble error={error} onRetry={refetch} />
          ) : !projects ? (
            <Skeleton className="h-64" />
          ) : projects.length === 0 ? (
            isGuest ? (
              <EmptyState title="No project is shown to you yet.">Ask the studio to show you one.</EmptyState>
            ) : (
              <EmptyState title="No project yet.">Begin one on the right, then carry items into it from the wall.</EmptyState>
            )
          ) : (
            <ul className="flex flex-col gap-3">
              {projects.map(p => (
                <ProjectLine key={p.id} project={p} isGuest={isGuest} />
              ))}
            </ul>
          )}
        </section>
        {!isGuest && <NewProjectForm session={session} />}
      </div>
      {!isGuest && (
        <div className="mx-auto mt-8 flex max-w-[100rem] flex-col gap-8">
          <RevisionsPanel />
          <MockUpsPanel projectId={null} />
        </div>
      )}
    </Page>
  )
}

/** What was fetched within so many seconds is not fetched again for being pointed at; changes come by themselves. */
const AHEAD_S = 30

function ProjectLine({ project: p, isGuest }: { project: ProjectSummary; isGuest: boolean }) {
  const prefetch = usePrefetch('getProject')
  // Whoever points at a project opens it next: by then it is here.
  const fetchAhead = () => prefetch({ id: p.id }, { ifOlderThan: AHEAD_S })
  return (
    <li>
      <Link
        to={`/projects/${p.id}`}
        onPointerEnter={fetchAhead}
        onFocus={fetchAhead}
        className="flex items-center gap-4 bg-sheet p-3 hover:bg-mount"
      >
        <Covers urls={p.covers} />
        <span className="min-w-0 flex-1">
          <span className="figures block text-xs text-quiet">{p.code}</span>
          <span className="block truncate text-base font-medium">{p.title}</span>
          <span className="block text-xs text-quiet">{p.library}</span>
        </span>
        <span className="shrink-0 text-right">
          <span className="block">{plural(p.pins, isGuest ? 'item' : 'pin')}</span>
          {!isGuest && (
            <span className={p.outdated > 0 ? 'block font-medium' : 'block text-xs text-quiet'}>
              {p.outdated > 0 ? `${p.outdated} to decide` : p.phase === 'open' ? 'up to date' : p.phase}
            </span>
          )}
        </span>
      </Link>
    </li>
  )
}

function NewProjectForm({ session }: { session: Session }) {
  const [create, { isLoading, error }] = useCreateProjectMutation()
  const navigate = useNavigate()
  const { control, register, handleSubmit, formState } = useZodForm(newProjectSchema, {
    title: '',
    code: '',
    library: session.libraries[0]?.key ?? '',
  })
  const begin = async (given: NewProject) => {
    const result = await create(given)
    if (result.data) navigate(`/projects/${result.data.id}`)
  }
  const problem = error ? toProblem(error) : null
  return (
    <form onSubmit={handleSubmit(begin)} noValidate className="flex flex-col gap-3 self-start rounded-sm bg-sheet p-4">
      <h2 className="text-section">Begin a project</h2>
      <TextField label="Title" error={formState.errors.title?.message} {...register('title')} />
      <TextField
        label="Code"
        hint="As on its drawings: capitals, digits, dashes"
        error={formState.errors.code?.message ?? problem?.fields?.code}
        {...register('code', { setValueAs: (text: string) => text.trim().toUpperCase() })}
      />
      <FormChoice
        label="Who sees it"
        control={control}
        name="library"
        options={session.libraries.map(l => ({
          value: l.key,
          text: l.kind === 'house' ? 'Everybody in the house' : `The team of ${l.title}`,
        }))}
      />
      {problem && !problem.fields?.code && (
        <p role="alert" className="font-medium">
          {problem.message}
        </p>
      )}
      <Button type="submit" variant="next" disabled={isLoading} className="justify-center">
        Begin
      </Button>
    </form>
  )
}
