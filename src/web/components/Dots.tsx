import { DOT_COLORS } from '#shared/contracts/personal.contract'

/** Apart from each other in lightness as well as in hue, so that they are told apart without seeing colours. */
const COLORS: Readonly<Record<number, string>> = {
  1: '#c43d2f',
  2: '#e3a21a',
  3: '#5f9a3c',
  4: '#2f7fb5',
  5: '#6d4aa3',
  // Of the ink, which stands out from every surround.
  6: 'var(--ink)',
}
export const dotColor = (color: number): string => COLORS[color] ?? '#777777'

/** Marks on one line, as small as they can be seen. */
export const Dots = ({ colors, meaningOf }: { colors: readonly number[]; meaningOf: (color: number) => string }) =>
  colors.length === 0 ? null : (
    <span className="flex shrink-0 gap-0.5" role="img" aria-label={`Dots: ${colors.map(meaningOf).join(', ')}`}>
      {colors.map(color => (
        <span key={color} title={meaningOf(color)} className="size-2 rounded-full" style={{ backgroundColor: dotColor(color) }} />
      ))}
    </span>
  )

interface ChoiceProps {
  /** Those that are on. */
  colors: readonly number[]
  meaningOf: (color: number) => string
  onToggle: (color: number) => void
}

/** All dots in a row, each to be put on or off. */
export const DotChoice = ({ colors, meaningOf, onToggle }: ChoiceProps) => (
  <fieldset className="flex gap-1" aria-label="Dots">
    {DOT_COLORS.map(color => (
      <button
        key={color}
        type="button"
        aria-pressed={colors.includes(color)}
        aria-label={meaningOf(color)}
        title={`${meaningOf(color)} (${color})`}
        onClick={() => onToggle(color)}
        className="group flex size-6 items-center justify-center rounded-sm hover:bg-mount"
      >
        <span
          className="size-3.5 rounded-full border-2 group-aria-pressed:border-transparent"
          style={
            colors.includes(color)
              ? { backgroundColor: dotColor(color), outline: '2px solid var(--ink)', outlineOffset: '1px' }
              : { borderColor: dotColor(color) }
          }
        />
      </button>
    ))}
  </fieldset>
)
