import { Choice } from '../../../components/controls/Choice'
import { useListProjectsQuery } from '../../../state/api'

/** Only what a project may use: what the house has, and what its own client has. */
export function UsableBlock({ value, onChange }: { value: string; onChange: (code: string) => void }) {
  const { data: projects = [] } = useListProjectsQuery()
  if (projects.length === 0) return null
  return (
    <fieldset className="mb-4 min-w-0 break-inside-avoid">
      <legend className="mb-1 text-xs text-quiet">May be used in</legend>
      <Choice
        label="May be used in"
        value={value}
        options={[
          { value: '', text: 'any project' },
          ...projects.map(({ code, title }) => ({ value: code, text: `${code} ${title}` })),
        ]}
        className="w-full"
        onChange={onChange}
      />
    </fieldset>
  )
}
