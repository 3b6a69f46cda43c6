import type { Sheet } from '#shared/contracts/items.contract'
import { ProjectStates } from '../../components/ProjectStates'
import { useListRevisionsQuery } from '../../state/api'

/** Which projects use an item, at which version, and what they do about a newer one. */
export function UsedBy({ sheet }: { sheet: Sheet }) {
  const { data = [] } = useListRevisionsQuery({ item: sheet.id })
  const [revision] = data
  if (!revision || revision.projects.length === 0) return null
  return (
    <section>
      <h2 className="mb-2 text-section">Pinned by</h2>
      <ProjectStates revision={revision} />
    </section>
  )
}
