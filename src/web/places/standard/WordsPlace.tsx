import { Search, Trash2 } from 'lucide-react'
import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import { readWordLine, type WordLine } from '#core/standard/word-lines'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { CONTROL } from '../../components/controls/control-look'
import { DraftField } from '../../components/controls/DraftField'
import { Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { useGetSessionQuery, useListWordLinesQuery, useSetWordLineMutation } from '../../state/api'
import { plural } from '../../words/states'

const ORIGIN_WORDS = { shipped: '', changed: 'in our words', own: 'our own' } as const

/** The vocabulary of the search: words of any language that mean one thing here. A lead adds lines and changes those that ship. */
export function WordsPlace() {
  const { data: lines, error, refetch } = useListWordLinesQuery()
  const { data: session } = useGetSessionQuery()
  const mayEdit = session?.person?.role === 'lead'
  const [looked, setLooked] = useState('')
  const save = useSaveLine()
  if (error) return <Trouble error={error} onRetry={refetch} />
  const wanted = looked.trim().toLowerCase()
  const shown = lines?.filter(l => wanted === '' || l.words.some(w => w.toLowerCase().includes(wanted)))
  return (
    <Page>
      <div className="mx-auto max-w-4xl">
        <PageHead
          title="Vocabulary"
          from={{ to: '/standard', text: 'Standard' }}
          facts="Words of one line find each other, in whatever language they are typed"
        />
        {mayEdit && <NewLine onSave={(words, isUse) => save('', words, isUse)} />}
        <label className="relative mt-4 mb-2 block w-72">
          <span className="sr-only">Find a word</span>
          <Search aria-hidden className="pointer-events-none absolute top-2 left-2 size-4 text-quiet" />
          <input
            className={`${CONTROL} w-full pl-8`}
            placeholder="Find a word"
            value={looked}
            onChange={event => setLooked(event.target.value)}
          />
        </label>
        {shown ? (
          <ul aria-label="Lines of the vocabulary" className="border-t border-line">
            {shown.map(line => (
              <Line key={line.key} line={line} mayEdit={mayEdit} onSave={(words, isUse) => save(line.key, words, isUse)} />
            ))}
          </ul>
        ) : (
          <Skeleton className="h-96" />
        )}
        {shown?.length === 0 && (
          <p className="py-4 text-quiet">
            No line has “{looked.trim()}”.{' '}
            {mayEdit && 'Write it above, with a word that means the same, and both are found by either.'}
          </p>
        )}
        {lines && shown && shown.length > 0 && (
          <p className="mt-2 text-xs text-quiet">
            {plural(shown.length, 'line')}, {lines.filter(l => l.origin !== 'shipped').length} of them ours
          </p>
        )}
      </div>
    </Page>
  )
}

/** Saves a line, tells what came of it, and offers its undoing. */
function useSaveLine() {
  const [setLine] = useSetWordLineMutation()
  return async (key: string, words: string[], isUse?: boolean): Promise<boolean> => {
    const result = await setLine({ key, words, isUse })
    if (result.error) {
      tellProblem(result.error)
      return false
    }
    const { key: saved, before } = result.data
    const isTurned = isUse !== undefined && before.join() === words.join()
    toast.success(isTurned ? `${words[0]} says ${isUse ? USE_WORDS.where : USE_WORDS.what}.` : describeLine(words, before), {
      action: {
        label: 'Undo',
        onClick: () => void setLine({ key: saved, words: before, isUse: isTurned ? !isUse : undefined }),
      },
    })
    return true
  }
}

const USE_WORDS = { where: 'where a thing is used', what: 'what a thing is' }

const describeLine = (words: readonly string[], before: readonly string[]): string =>
  words.length === 0 ? `${before[0]} is taken out.` : `${words[0]} is also ${words.slice(1).join(', ')}.`

type Save = (words: string[], isUse?: boolean) => Promise<boolean>

function NewLine({ onSave }: { onSave: Save }) {
  const [text, setText] = useState('')
  const [isUse, setUse] = useState(false)
  const words = readWordLine(text)
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (!(await onSave(words, isUse))) return
    setText('')
    // The next line is another thing.
    setUse(false)
  }
  return (
    <form onSubmit={submit} className="flex items-end gap-2">
      <label className="flex flex-1 flex-col gap-1 text-xs text-quiet">
        A new line, with commas between; the first word is ours for it
        <input
          className={`${CONTROL} text-sm text-ink`}
          placeholder="smoked oak, Räuchereiche, chêne fumé"
          value={text}
          onChange={event => setText(event.target.value)}
        />
      </label>
      <CheckBox className="h-8 text-xs" label="It is a room or a use" checked={isUse} onChange={setUse} />
      <Button type="submit" variant="next" disabled={words.length < 2}>
        Add it
      </Button>
    </form>
  )
}

interface LineProps {
  line: WordLine
  mayEdit: boolean
  onSave: Save
}

function Line({ line, mayEdit, onSave }: LineProps) {
  const text = line.words.join(', ')
  return (
    <li className="grid min-h-9 grid-cols-[minmax(0,1fr)_7rem_6rem_2rem] items-center gap-2 border-b border-line py-0.5">
      {mayEdit ? (
        <DraftField
          label={`Words for ${line.words[0]}`}
          value={text}
          className="w-full border-transparent! bg-transparent! hover:border-edge! focus:bg-mount!"
          onSettle={next => void onSave(readWordLine(next))}
        />
      ) : (
        <span className="px-2">{text}</span>
      )}
      {mayEdit && line.origin === 'own' ? (
        <CheckBox
          className="text-xs text-quiet"
          label="room or use"
          checked={line.isUse}
          onChange={isUse => void onSave([...line.words], isUse)}
        />
      ) : (
        <span className="text-xs text-quiet">{line.isUse ? 'room or use' : ''}</span>
      )}
      <span className="text-xs text-quiet">{ORIGIN_WORDS[line.origin]}</span>
      {mayEdit && (
        <button
          type="button"
          aria-label={`Take ${line.words[0]} out`}
          title="Take it out"
          className="flex size-7 items-center justify-center rounded-sm text-quiet hover:bg-mount hover:text-ink"
          onClick={() => void onSave([])}
        >
          <Trash2 aria-hidden className="size-3.5" />
        </button>
      )}
    </li>
  )
}
