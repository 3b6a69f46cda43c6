import { Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { useListMembersQuery } from '../../state/api'

/** Who works here, and which libraries each may see. */
export function PeoplePlace() {
  const { data, error, refetch } = useListMembersQuery()
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead title="People" facts="Who works here, and what each may see" />
        {!data ? (
          <Skeleton className="h-40" />
        ) : (
          <ul className="border-t border-line">
            {data.map(p => (
              <li
                key={p.id}
                className="grid grid-cols-[minmax(0,1fr)_8rem_minmax(0,1fr)] items-baseline gap-4 border-b border-line py-2.5"
              >
                <span>
                  <span className="block font-medium">{p.name}</span>
                  <span className="block text-xs text-quiet">{p.email}</span>
                </span>
                <span>{p.role === 'lead' ? 'library lead' : 'artist'}</span>
                <span className="text-quiet">{p.libraries.join(', ')}</span>
              </li>
            ))}
          </ul>
        )}
        <p className="mt-4 text-xs text-quiet">
          Everybody sees the house library. A client's library, its items, projects and counts exist only for its team.
        </p>
      </div>
    </Page>
  )
}
