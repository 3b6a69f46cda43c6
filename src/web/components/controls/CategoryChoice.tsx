import { Combobox, ComboboxButton, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react'
import { Check, ChevronDown } from 'lucide-react'
import { useMemo, useState } from 'react'
import type { Category } from '#shared/contracts/items.contract'
import { type Branch, findBranches, toBranches } from './category-branches'
import { CONTROLS, type ControlVariant, PANEL, PANEL_LINE } from './control-look'
import { type Label, Labelled } from './Field'

/** Of a tree of hundreds so many are listed; whoever types on sees the rest. */
const MOST_LISTED = 200

interface Props {
  label: string
  categories: readonly Category[]
  value: string
  onChange: (path: string) => void
  /** What stands first, for no category, such as "all materials". */
  none?: string
  /** Items under each, at the end of its line. */
  counts?: Readonly<Record<string, number>>
  variant?: ControlVariant
  className?: string
  disabled?: boolean
  title?: string
}

/** A category of the house tree, found by typing any part of its way down. */
export function CategoryChoice({
  label,
  categories,
  value,
  onChange,
  none,
  counts,
  variant = 'framed',
  className = '',
  disabled,
  title,
}: Props) {
  const [words, setWords] = useState('')
  const branches = useMemo(() => toBranches(categories), [categories])
  const found = useMemo(() => findBranches(branches, words), [branches, words])
  const titleOf = (path: string | null) => branches.find(b => b.path === path)?.title ?? none ?? ''
  return (
    <Combobox
      immediate
      value={value}
      disabled={disabled}
      onChange={(path: string | null) => {
        if (path !== null) onChange(path)
      }}
      onClose={() => setWords('')}
    >
      <span className={`relative inline-flex ${className}`} title={title}>
        <ComboboxInput
          aria-label={label}
          displayValue={titleOf}
          onChange={event => setWords(event.target.value)}
          onFocus={event => event.target.select()}
          autoComplete="off"
          spellCheck={false}
          className={`w-full truncate pr-6 ${CONTROLS[variant]} ${variant === 'plain' ? 'px-1' : ''}`}
        />
        <ComboboxButton
          aria-label={`${label}: all of them`}
          className="absolute inset-y-0 right-0 flex w-6 items-center justify-center text-quiet disabled:opacity-50"
        >
          <ChevronDown aria-hidden className="size-3.5" />
        </ComboboxButton>
      </span>
      <ComboboxOptions modal={false} anchor={{ to: 'bottom start', padding: 8 }} className={`min-w-(--input-width) ${PANEL}`}>
        {none !== undefined && words === '' && (
          <BranchLine branch={{ path: '', title: none, depth: 0, trail: '' }} isFlat={false} />
        )}
        {found.slice(0, MOST_LISTED).map(branch => (
          <BranchLine key={branch.path} branch={branch} isFlat={words !== ''} count={counts?.[branch.path]} />
        ))}
        {found.length === 0 && <p className="px-3 py-1.5 text-quiet">No category of this name</p>}
        {found.length > MOST_LISTED && (
          <p className="px-3 py-1.5 text-xs text-quiet">and {found.length - MOST_LISTED} more; type a part of the name</p>
        )}
      </ComboboxOptions>
    </Combobox>
  )
}

/** In the tree set in by its depth; among what was found, after the way that leads to it. */
function BranchLine({
  branch: { path, title, depth, trail },
  isFlat,
  count,
}: {
  branch: Branch
  isFlat: boolean
  count?: number
}) {
  return (
    <ComboboxOption value={path} className={`group ${PANEL_LINE}`}>
      <Check aria-hidden className="invisible size-3.5 shrink-0 group-data-selected:visible" />
      <span
        className={`whitespace-nowrap ${depth === 0 ? 'font-medium' : ''}`}
        style={isFlat ? undefined : { paddingLeft: `${depth * 0.875}rem` }}
      >
        {title}
      </span>
      {isFlat && trail && <span className="truncate text-xs text-quiet">{trail}</span>}
      {count !== undefined && <span className="figures ml-auto pl-4 text-xs text-quiet">{count}</span>}
    </ComboboxOption>
  )
}

export const CategoryField = ({ hint, error, ...props }: Props & Omit<Label, 'label'>) => (
  <Labelled label={props.label} hint={hint} error={error}>
    <CategoryChoice {...props} className={`w-full ${props.className ?? ''}`} />
  </Labelled>
)
