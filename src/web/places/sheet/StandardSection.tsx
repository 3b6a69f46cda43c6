import type { Sheet } from '#shared/contracts/items.contract'
import { tellBulk, tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { useRenameItemsMutation, useSetFactsMutation } from '../../state/api'
import { offWords } from '../../words/standard'

/** What keeps the item from being on standard by its words and figures; nothing where it is. */
export function StandardSection({ sheet }: { sheet: Sheet }) {
  const [rename] = useRenameItemsMutation()
  const [setFacts] = useSetFactsMutation()
  const { standard, id, name } = sheet
  const lines = offWords(standard)
  const { proposedName, proposedTags } = standard
  if (lines.length === 0 && proposedName === null) return null
  const callIt = async (next: string, before: string) => {
    const result = await rename({ names: [{ id, name: next }] })
    if (!result.data) return tellProblem(result.error)
    tellBulk(() => `It is called ${next} now.`, result.data, {
      label: 'Undo',
      onClick: () => rename({ names: [{ id, name: before }] }),
    })
  }
  const tagIt = async (tags: string) => {
    const result = await setFacts({ items: [{ id, facts: { tags } }] })
    if (!result.data) return tellProblem(result.error)
    const { before } = result.data
    tellBulk(() => 'Tagged in our words.', result.data, { label: 'Undo', onClick: () => setFacts({ items: before }) })
  }
  return (
    <section>
      <h2 className="mb-2 text-section">Off standard</h2>
      <ul className="border-t border-line">
        {proposedName !== null && (
          <li className="flex items-center justify-between gap-3 border-b border-line py-1.5">
            <span>
              By the pattern: <strong className="font-medium">{proposedName}</strong>
            </span>
            {sheet.mayEdit && <Button onClick={() => callIt(proposedName, name)}>Rename</Button>}
          </li>
        )}
        {lines.map(line => (
          <li key={line} className="flex items-center justify-between gap-3 border-b border-line py-1.5">
            <span>{line[0].toUpperCase() + line.slice(1)}</span>
            {sheet.mayEdit && proposedTags !== null && line.endsWith(proposedTags) && (
              <Button onClick={() => tagIt(proposedTags)}>Tag so</Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
