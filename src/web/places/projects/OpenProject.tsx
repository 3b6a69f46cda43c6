import type { ReactNode } from 'react'
import { useParams } from 'react-router'
import type { Project } from '#shared/contracts/projects.contract'
import { Skeleton, Trouble } from '../../components/Notice'
import { useGetProjectQuery } from '../../state/api'

/** The project of the address, once it is there; else why it is not. */
export function OpenProject({ children }: { children: (project: Project) => ReactNode }) {
  const id = Number(useParams().id)
  const { data: project, error, refetch } = useGetProjectQuery({ id }, { skip: !Number.isInteger(id) })
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!project)
    return (
      <div className="px-6 py-5">
        <Skeleton className="h-96" />
      </div>
    )
  return children(project)
}
