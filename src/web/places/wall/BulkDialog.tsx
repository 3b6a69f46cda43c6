import { useEffect, useState } from 'react'
import { type BulkAction, type BulkPlan, MOST_BULK_ITEMS } from '#shared/contracts/bulk.contract'
import { type ItemState, STATES } from '#shared/contracts/chip.contract'
import type { Category } from '#shared/contracts/items.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CategoryChoice } from '../../components/controls/CategoryChoice'
import { Choice, optionsOf } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { DotChoice } from '../../components/Dots'
import { Modal } from '../../components/dialogs/Modal'
import { useDots } from '../../components/use-dots'
import { useGetSessionQuery, useListProjectsQuery, usePlanBulkMutation, useStartBulkMutation } from '../../state/api'
import { plural, STATE_WORDS } from '../../words/states'

const DOINGS = [
  'state',
  'category',
  'library',
  'tags',
  'uses',
  'proposeTags',
  'proposeUses',
  'maker',
  'licence',
  'names',
  'replace',
  'finals',
  'dot',
  'pin',
] as const
type Doing = (typeof DOINGS)[number]
const DOING_WORDS: Readonly<Record<Doing, string>> = {
  state: 'Set the state',
  category: 'Move to a category',
  library: 'Move into another library',
  tags: 'Tags in or out',
  uses: 'Rooms and uses in or out',
  proposeTags: 'Tags from names, folders and measures',
  proposeUses: 'Rooms and uses from names and places',
  maker: 'Give the maker',
  licence: 'Give the licence',
  names: 'Names by the pattern of their category',
  replace: 'Replace letters in the names',
  finals: 'Render final pictures',
  dot: 'Put a dot on',
  pin: 'Pin in a project',
}
/** What needs no right to change the library. */
const ANYBODYS: readonly Doing[] = ['dot', 'pin']
const PLAN_PAUSE_MS = 300

interface Props {
  /** The view whose items are meant, as its address says. */
  address: string
  total: number
  mayEdit: boolean
  categories: readonly Category[]
  onClose: () => void
  onStarted: (id: number) => void
}

/** One change of everything in view: what it is, what would happen, and then it runs in the background. */
export function BulkDialog({ address, total, mayEdit, categories, onClose, onStarted }: Props) {
  const offered = mayEdit ? DOINGS : ANYBODYS
  const [doing, setDoing] = useState<Doing>(offered[0])
  const [state, setState] = useState<ItemState>('approved')
  const [category, setCategory] = useState('')
  const [value, setValue] = useState('')
  const [gone, setGone] = useState('')
  const [color, setColor] = useState(1)
  const [projectId, setProjectId] = useState('')
  const { data: projects = [] } = useListProjectsQuery()
  const { data: session } = useGetSessionQuery()
  const libraries = session?.libraries ?? []
  const { meaningOf } = useDots()
  const [planBulk] = usePlanBulkMutation()
  const [startBulk, { isLoading }] = useStartBulkMutation()
  const [plan, setPlan] = useState<BulkPlan | null>(null)
  const action = toAction({ doing, state, category, value, gone, color, projectId })
  const key = JSON.stringify(action)
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is wanted is in the key
  useEffect(() => {
    setPlan(null)
    if (!action || total > MOST_BULK_ITEMS) return
    let isOld = false
    const timer = setTimeout(async () => {
      const result = await planBulk({ address, action })
      if (!isOld && result.data) setPlan(result.data)
    }, PLAN_PAUSE_MS)
    return () => {
      isOld = true
      clearTimeout(timer)
    }
  }, [key, address])
  const start = async () => {
    if (!action) return
    const result = await startBulk({ address, action })
    if (!result.data) return tellProblem(result.error)
    onStarted(result.data.id)
    onClose()
  }
  const changing = plan ? plan.total - plan.same - plan.blocked.reduce((sum, b) => sum + b.count, 0) : 0
  return (
    <Modal title={`Change ${plural(total, 'item')}`} width="medium" onClose={onClose}>
      <div className="flex flex-col gap-4">
        <Choice
          label="What to do"
          value={doing}
          options={optionsOf(offered, DOING_WORDS)}
          onChange={next => {
            setDoing(next)
            setValue('')
            setGone('')
          }}
        />
        {doing === 'state' && <Choice label="State" value={state} options={optionsOf(STATES, STATE_WORDS)} onChange={setState} />}
        {doing === 'category' && (
          <CategoryChoice label="Into" categories={categories} none="Which?" value={category} onChange={setCategory} />
        )}
        {doing === 'library' && (
          <Choice
            label="Library"
            value={value}
            options={[{ value: '', text: 'Which library?' }, ...libraries.map(l => ({ value: l.key, text: l.title }))]}
            onChange={setValue}
          />
        )}
        {(doing === 'tags' || doing === 'uses') && (
          <>
            <TextField
              label="Put in, with commas between"
              value={value}
              onChange={event => setValue(event.target.value)}
              maxLength={200}
            />
            <TextField label="Take out" value={gone} onChange={event => setGone(event.target.value)} maxLength={200} />
          </>
        )}
        {(doing === 'maker' || doing === 'licence') && (
          <TextField
            label={doing === 'maker' ? 'Maker' : 'Licence'}
            value={value}
            onChange={event => setValue(event.target.value)}
            maxLength={200}
          />
        )}
        {doing === 'replace' && (
          <>
            <TextField label="Where a name has" value={value} onChange={event => setValue(event.target.value)} maxLength={120} />
            <TextField label="Put in its place" value={gone} onChange={event => setGone(event.target.value)} maxLength={120} />
          </>
        )}
        {doing === 'dot' && <DotChoice colors={[color]} meaningOf={meaningOf} onToggle={setColor} />}
        {doing === 'pin' && (
          <Choice
            label="Project"
            value={projectId}
            options={[
              { value: '', text: 'Which project?' },
              ...projects.map(p => ({ value: String(p.id), text: `${p.code} ${p.title}` })),
            ]}
            onChange={setProjectId}
          />
        )}
        <div role="status" className="min-h-16 border-t border-line pt-3 text-quiet">
          {total > MOST_BULK_ITEMS ? (
            <p>{`Up to ${MOST_BULK_ITEMS} items are changed at once; narrow the view.`}</p>
          ) : plan ? (
            <>
              <p>
                <span className="font-medium text-ink">{plural(changing, 'item')}</span> will be changed
                {plan.same > 0 && `, ${plan.same} are so already`}.
              </p>
              {plan.blocked.map(({ reason, count }) => (
                <p key={reason}>
                  {count} cannot: {reason}
                </p>
              ))}
            </>
          ) : (
            <p>{action ? 'Looking at what would happen…' : 'Say what they are to be.'}</p>
          )}
        </div>
        <div className="flex justify-end gap-2">
          <Button variant="bare" onClick={onClose}>
            Leave it
          </Button>
          <Button variant="next" disabled={!plan || changing <= 0 || isLoading} onClick={start}>
            Change {changing > 0 ? plural(changing, 'item') : ''}
          </Button>
        </div>
      </div>
    </Modal>
  )
}

interface Chosen {
  doing: Doing
  state: ItemState
  category: string
  value: string
  gone: string
  color: number
  projectId: string
}

const listWords = (text: string): string[] =>
  text
    .split(',')
    .map(w => w.trim())
    .filter(Boolean)

/** Null while it is not said whole. */
function toAction({ doing, state, category, value, gone, color, projectId }: Chosen): BulkAction | null {
  switch (doing) {
    case 'state':
      return { do: 'state', state }
    case 'category':
      return category ? { do: 'category', category } : null
    case 'library':
      return value ? { do: 'library', library: value } : null
    case 'tags':
    case 'uses': {
      const [add, remove] = [listWords(value), listWords(gone)]
      return add.length + remove.length > 0 ? { do: 'words', list: doing, add, remove } : null
    }
    case 'maker':
    case 'licence':
      return value.trim() ? { do: 'fact', fact: doing, value: value.trim() } : null
    case 'proposeTags':
      return { do: 'propose', list: 'tags' }
    case 'proposeUses':
      return { do: 'propose', list: 'uses' }
    case 'names':
    case 'finals':
      return { do: doing }
    case 'replace':
      return value === '' ? null : { do: 'replace', find: value, put: gone }
    case 'dot':
      return { do: 'dot', color, on: true }
    case 'pin':
      return projectId ? { do: 'pin', projectId: Number(projectId) } : null
    default:
      return doing satisfies never
  }
}
