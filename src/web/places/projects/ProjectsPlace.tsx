import { useForm } from 'react-hook-form'
import { Link, useNavigate } from 'react-router'
import type { NewProject, ProjectSummary } from '#shared/contracts/projects.contract'
import type { Session } from '#shared/contracts/session.contract'
import { Button } from '../../components/Button'
import { SelectField, TextField } from '../../components/Field'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { Page } from '../../components/Page'
import { toProblem, useCreateProjectMutation, useListProjectsQuery } from '../../state/api'
import { plural } from '../../words/states'

export function ProjectsPlace({ session }: { session: Session }) {
  const { data: projects, error, refetch } = useListProjectsQuery()
  return (
    <Page>
      <div className="mx-auto grid max-w-6xl grid-cols-[minmax(0,1fr)_18rem] gap-10">
        <section>
          <h1 className="mb-3 text-lg font-medium">Projects</h1>
          {error ? (
            <Trouble error={error} onRetry={refetch} />
          ) : !projects ? (
            <Skeleton className="h-64" />
          ) : projects.length === 0 ? (
            <EmptyState title="No project yet.">Begin one on the right, then carry items into it from the wall.</EmptyState>
          ) : (
            <ul className="flex flex-col gap-3">
              {projects.map(p => (
                <ProjectLine key={p.id} project={p} />
              ))}
            </ul>
          )}
        </section>
        <NewProjectForm session={session} />
      </div>
    </Page>
  )
}

function ProjectLine({ project: p }: { project: ProjectSummary }) {
  return (
    <li>
      <Link to={`/projects/${p.id}`} className="flex items-center gap-4 bg-sheet p-3 hover:bg-mount">
        <span className="flex shrink-0 gap-1">
          {Array.from({ length: 4 }, (_, i) =>
            p.covers[i] ? (
              <img key={i} src={p.covers[i]} alt="" className="h-15 w-20 object-cover" />
            ) : (
              <span key={i} className="h-15 w-20 bg-surround" />
            ),
          )}
        </span>
        <span className="min-w-0 flex-1">
          <span className="figures block text-xs text-quiet">{p.code}</span>
          <span className="block truncate text-base font-medium">{p.title}</span>
          <span className="block text-xs text-quiet">{p.library}</span>
        </span>
        <span className="shrink-0 text-right">
          <span className="block">{plural(p.pins, 'pin')}</span>
          <span className={p.outdated > 0 ? 'block font-medium' : 'block text-xs text-quiet'}>
            {p.outdated > 0 ? `${p.outdated} with a newer version` : 'up to date'}
          </span>
        </span>
      </Link>
    </li>
  )
}

function NewProjectForm({ session }: { session: Session }) {
  const [create, { isLoading, error }] = useCreateProjectMutation()
  const navigate = useNavigate()
  const { register, handleSubmit, formState } = useForm<NewProject>({
    defaultValues: { title: '', code: '', library: session.libraries[0]?.key ?? '' },
  })
  const begin = async (given: NewProject) => {
    const result = await create(given)
    if (result.data) navigate(`/projects/${result.data.id}`)
  }
  const problem = error ? toProblem(error) : null
  return (
    <form onSubmit={handleSubmit(begin)} noValidate className="flex flex-col gap-3">
      <h2 className="text-lg font-medium">Begin a project</h2>
      <TextField
        label="Title"
        error={formState.errors.title?.message}
        {...register('title', { required: 'Give the project a title.' })}
      />
      <TextField
        label="Code"
        hint="As on its drawings: capitals, digits, dashes"
        error={formState.errors.code?.message ?? problem?.fields?.code}
        {...register('code', {
          required: 'Give the project a code.',
          setValueAs: (v: string) => v.trim().toUpperCase(),
          pattern: { value: /^[A-Za-z0-9][A-Za-z0-9-]{1,15}$/, message: 'A code has 2 to 16 capitals, digits and dashes.' },
        })}
      />
      <SelectField label="Who sees it" {...register('library')}>
        {session.libraries.map(l => (
          <option key={l.key} value={l.key}>
            {l.kind === 'house' ? 'Everybody in the house' : `The team of ${l.title}`}
          </option>
        ))}
      </SelectField>
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
