import { CONTROL } from './control-look'

interface Props {
  /** What is searched, for whoever does not see where it stands. */
  label: string
  words: string
  onWords: (words: string) => void
  className?: string
}

/** Narrows a long list to what is called so. */
export const ListSearch = ({ label, words, onWords, className = '' }: Props) => (
  <input
    type="search"
    aria-label={label}
    placeholder="Name or code"
    value={words}
    onChange={event => onWords(event.target.value)}
    className={`${CONTROL} text-ink ${className}`}
  />
)
