import type { Chip } from '#shared/contracts/chip.contract'
import type { NothingFound as Nothing } from '#shared/contracts/find.contract'
import { Button } from '../../components/controls/Button'
import { plural } from '../../words/states'
import { ChipView } from './ChipView'
import { listFilters } from './narrow/FiltersInForce'
import { readValues, type WallAddress, writeValues } from './wall-address'

interface Props {
  nothing: Nothing
  address: WallAddress
  inTray: (chip: Chip) => boolean
  onChange: (patch: Partial<WallAddress>) => void
  onClear: () => void
  onOpen: (chip: Chip) => void
  onTray: (chip: Chip) => void
  meaningOf: (color: number) => string
}

/** An empty view leads on: which one thing to drop, what may have been meant, what comes nearest. */
export function NothingFound({ nothing, address, inTray, onChange, onClear, onOpen, onTray, meaningOf }: Props) {
  const drops = nothing.drops.map(({ key, count }) => ({ key, count, ...describeDrop(key, address) }))
  return (
    <div className="h-full overflow-auto px-6 py-6">
      <h2 className="text-title">Nothing is all of this.</h2>
      {drops.length > 0 && (
        <section aria-label="What to leave out" className="mt-3">
          <p className="mb-1.5 text-quiet">Leaving one thing out finds</p>
          <ul className="flex flex-wrap gap-2">
            {drops.map(({ key, count, text, patch }) => (
              <li key={key}>
                <Button onClick={() => onChange(patch)}>
                  <span className="figures">{plural(count, 'item')}</span>
                  <span>
                    without <span className="font-medium">{text}</span>
                  </span>
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {nothing.words.length > 0 && (
        <section aria-label="Words like it" className="mt-4">
          <p className="mb-1.5 text-quiet">Words like what was typed</p>
          <ul className="flex flex-wrap gap-2">
            {nothing.words.map(({ typed, word, count }) => (
              <li key={`${typed} ${word}`}>
                <Button onClick={() => onChange({ words: replaceWord(address.words, typed, word) })}>
                  <span className="font-medium">{word}</span>
                  <span className="figures text-xs text-quiet">{count}</span>
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {nothing.nearest.length > 0 && (
        <section aria-label="Nearest" className="mt-5">
          <p className="mb-2 text-quiet">Nearest to it</p>
          <div className="flex flex-wrap gap-2.5">
            {nothing.nearest.map((chip, index) => (
              <div key={chip.id} className="w-42">
                <ChipView
                  chip={chip}
                  inTray={inTray(chip)}
                  focused
                  index={index}
                  actions={{ open: onOpen, tray: onTray, focus: () => {}, carried: ({ id }) => [id] }}
                  meaningOf={meaningOf}
                />
              </div>
            ))}
          </div>
        </section>
      )}
      <div className="mt-6">
        <Button variant="bare" onClick={onClear}>
          Show everything
        </Button>
      </div>
    </div>
  )
}

function describeDrop(key: string, address: WallAddress): { text: string; patch: Partial<WallAddress> } {
  if (key.startsWith('word:')) {
    const word = key.slice('word:'.length)
    return { text: `“${word}”`, patch: { words: replaceWord(address.words, word, '') } }
  }
  if (key.startsWith('color:')) {
    const colors = readValues(address.color)
    const place = Number(key.slice('color:'.length))
    return { text: `colour #${colors[place]?.slice(0, 6)}`, patch: { color: writeValues(colors.filter((_, k) => k !== place)) } }
  }
  if (key === 'category') return { text: 'the category', patch: { category: '' } }
  const name = key as keyof WallAddress
  // Withdrawn items are out of sight without anybody's asking.
  if (key === 'state' && address.state === '')
    return { text: 'the rule that hides what is withdrawn', patch: { state: 'withdrawn' } }
  const texts = listFilters(address, null)
    .filter(f => f.key === name)
    .map(f => `${f.title.toLowerCase()} ${f.text}`)
  return { text: texts.join(' or ') || key, patch: { [name]: '' } }
}

const replaceWord = (words: string, typed: string, word: string): string => {
  const plain = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
  const parts = words.trim().split(/\s+/)
  const wanted = typed.split(' ')
  const at = parts.findIndex((_, k) => wanted.every((w, n) => plain(parts[k + n] ?? '').includes(w)))
  if (at < 0) return word
  return [...parts.slice(0, at), word, ...parts.slice(at + wanted.length)].filter(Boolean).join(' ')
}
