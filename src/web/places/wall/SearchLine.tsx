import { ImagePlus, Search } from 'lucide-react'
import { type KeyboardEvent, type ReactNode, useEffect, useId, useRef, useState } from 'react'
import type { SuggestionsView } from '#shared/contracts/find.contract'
import { widthsOf } from '#shared/picture-widths'
import { CONTROL } from '../../components/controls/control-look'
import { useKey } from '../../components/use-key'
import { useSuggestWordsQuery } from '../../state/api'
import { FIGURE_WORDS, rangeWord, VALUE_FACETS, valueWord } from './narrow/facet-words'
import { setPart, toggleValue, type WallAddress, writeRange } from './wall-address'

const TYPING_PAUSE_MS = 120

interface Props {
  address: WallAddress
  /** What one stands in, by its title. */
  within?: string
  onChange: (patch: Partial<WallAddress>, replace?: boolean) => void
  onEverywhere: (words: string) => void
  onOpen: (code: string) => void
  onPicture: (files: FileList | null) => void
  /** A picture is being measured. */
  isReading: boolean
  /** Enter: on to what was found. */
  onToChips: (words: string) => void
}

/** A line of the list: what it says, and what taking it does. */
interface Line {
  key: string
  group: string
  body: ReactNode
  count: number | null
  take: () => void
}

/** Words as they are typed narrow the wall at once; what they may mean is listed beneath, counted where one stands. */
export function SearchLine({ address, within, onChange, onEverywhere, onOpen, onPicture, isReading, onToChips }: Props) {
  const { words } = address
  const [text, setText] = useState(words)
  const [isOpen, setOpen] = useState(false)
  const [active, setActive] = useState(-1)
  const field = useRef<HTMLInputElement>(null)
  const chooser = useRef<HTMLInputElement>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const listId = useId()
  // What comes back is what was sent, perhaps long ago while somebody typed on; only other words are taken over.
  const sent = useRef([words])
  useEffect(() => {
    const at = sent.current.indexOf(words)
    if (at < 0) setText(words)
    sent.current = at < 0 ? [words] : sent.current.slice(at)
  }, [words])
  useEffect(() => () => clearTimeout(timer.current), [])
  useKey('/', event => {
    event.preventDefault()
    field.current?.select()
  })
  const isAsked = isOpen && words.trim() !== ''
  const { currentData: suggestions } = useSuggestWordsQuery(setPart(address), { skip: !isAsked })
  const send = (next: string) => {
    clearTimeout(timer.current)
    setText(next)
    if (next !== sent.current.at(-1)) sent.current.push(next)
    onChange({ words: next }, true)
  }
  const close = () => {
    setOpen(false)
    setActive(-1)
  }
  const lines = isAsked && suggestions ? listLines(suggestions, { address, send, onChange, onEverywhere, onOpen }) : []
  const take = (line: Line) => {
    close()
    line.take()
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      if (lines.length === 0) return
      event.preventDefault()
      setOpen(true)
      const step = event.key === 'ArrowDown' ? 1 : -1
      setActive(((active + 1 + step + lines.length + 1) % (lines.length + 1)) - 1)
    } else if (event.key === 'Enter') {
      // Where the keyboard goes on, this Enter presses nothing.
      event.preventDefault()
      if (active >= 0 && lines[active]) take(lines[active])
      else {
        close()
        if (text !== sent.current.at(-1)) send(text)
        onToChips(text)
      }
    } else if (event.key === 'Escape' && isOpen) {
      // A search field empties itself on Escape; here it closes what lies on top.
      event.preventDefault()
      event.stopPropagation()
      close()
    }
  }
  return (
    <div className="relative w-72 min-w-28 shrink min-[1240px]:min-w-52">
      <Search aria-hidden className="pointer-events-none absolute top-2 left-2 size-4 text-quiet" />
      <input
        ref={field}
        type="search"
        value={text}
        autoComplete="off"
        aria-autocomplete="list"
        aria-controls={lines.length > 0 ? listId : undefined}
        aria-activedescendant={active >= 0 && lines[active] ? `${listId}-${active}` : undefined}
        onKeyDown={onKeyDown}
        onBlur={close}
        onChange={event => {
          setText(event.target.value)
          setOpen(true)
          setActive(-1)
          clearTimeout(timer.current)
          timer.current = setTimeout(() => {
            send(event.target.value)
          }, TYPING_PAUSE_MS)
        }}
        placeholder={within ? `Search in ${within}` : 'Search'}
        aria-label={within ? `Search in ${within}` : 'Search'}
        className={`${CONTROL} w-full pr-8 pl-8`}
      />
      <input
        ref={chooser}
        type="file"
        accept="image/*,.exr,.hdr"
        hidden
        onChange={event => {
          onPicture(event.target.files)
          event.target.value = ''
        }}
      />
      <button
        type="button"
        onClick={() => chooser.current?.click()}
        disabled={isReading}
        aria-label="Like a picture"
        title="What looks like a photograph or a texture: choose one, or drop it anywhere here"
        className="absolute top-0.5 right-0.5 flex size-7 items-center justify-center rounded-sm bg-mount text-quiet hover:text-ink"
      >
        <ImagePlus aria-hidden className={`size-4 ${isReading ? 'animate-pulse' : ''}`} />
      </button>
      {lines.length > 0 && (
        <div
          id={listId}
          role="listbox"
          aria-label="Suggestions"
          className="absolute top-9 left-0 z-40 max-h-[70vh] w-96 overflow-auto rounded-sm border border-edge bg-mount py-1 shadow-lg"
        >
          {lines.map((line, k) => (
            <div key={line.key}>
              {line.group !== lines[k - 1]?.group && (
                <div aria-hidden className="px-3 pt-1.5 pb-0.5 text-2xs text-quiet">
                  {line.group}
                </div>
              )}
              <div
                id={`${listId}-${k}`}
                role="option"
                aria-selected={k === active}
                tabIndex={-1}
                // The field keeps the focus.
                onMouseDown={event => event.preventDefault()}
                onMouseMove={() => setActive(k)}
                onClick={() => take(line)}
                onKeyDown={event => event.key === 'Enter' && take(line)}
                className="flex cursor-pointer items-center gap-2 px-3 py-1 aria-selected:bg-sheet"
              >
                {line.body}
                {line.count !== null && <span className="figures ml-auto shrink-0 pl-3 text-xs text-quiet">{line.count}</span>}
              </div>
            </div>
          ))}
        </div>
      )}
    </div>
  )
}

interface Taking extends Pick<Props, 'address' | 'onChange' | 'onEverywhere' | 'onOpen'> {
  send: (words: string) => void
}

function listLines(found: SuggestionsView, { address, send, onChange, onEverywhere, onOpen }: Taking): Line[] {
  const { before, words, values, figure, items, here, everywhere } = found
  const join = (word: string) => [before, word].filter(Boolean).join(' ')
  const narrowing = (patch: Partial<WallAddress>) => onChange({ words: before, ...patch })
  const typed = address.words.trim().toLowerCase()
  const lines: Line[] = []
  if (figure && figure.facet in FIGURE_WORDS) {
    const facet = figure.facet as keyof typeof FIGURE_WORDS
    lines.push({
      key: 'figure',
      group: FIGURE_WORDS[facet].title,
      body: <span className="font-medium">{rangeWord(facet, figure)}</span>,
      count: figure.count,
      take: () => onChange({ words: figure.rest, [facet]: writeRange(figure) }),
    })
  }
  for (const { word, count } of words)
    if (join(word) !== typed)
      lines.push({ key: `word ${word}`, group: 'Word', body: <span>{join(word)}</span>, count, take: () => send(join(word)) })
  for (const { facet, value, title, count } of values)
    lines.push({
      key: `${facet} ${value}`,
      group: facet === 'category' ? 'Category' : (VALUE_FACETS.find(([f]) => f === facet)?.[1] ?? facet),
      body: <span className="truncate">{valueWord(facet, value, title)}</span>,
      count,
      take: () => narrowing({ [facet]: facet === 'category' ? value : toggleValue(address[facet], value) }),
    })
  for (const { id, code, name, preview } of items)
    lines.push({
      key: `item ${id}`,
      group: 'Item',
      body: (
        <>
          {preview ? (
            <img src={preview} srcSet={widthsOf(preview)} sizes="32px" alt="" className="h-6 w-8 shrink-0 object-cover" />
          ) : (
            <span className="h-6 w-8 shrink-0" />
          )}
          <span className="truncate">{name}</span>
          <span className="figures shrink-0 text-xs text-quiet">{code}</span>
        </>
      ),
      count: null,
      take: () => onOpen(code),
    })
  if (everywhere > here)
    lines.push({
      key: 'everywhere',
      group: 'Not only here',
      body: <span>{`“${address.words.trim()}” everywhere, without any filter`}</span>,
      count: everywhere,
      take: () => onEverywhere(address.words),
    })
  return lines
}
