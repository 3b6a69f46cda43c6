import { Pipette, X } from 'lucide-react'
import { useState } from 'react'
import { CONTROL } from '../../../components/controls/control-look'
import { readValues, writeValues } from '../wall-address'

declare global {
  interface Window {
    /** Not in every browser. */
    EyeDropper?: new () => { open: () => Promise<{ sRGBHex: string }> }
  }
}

interface Props {
  value: string
  onChange: (text: string) => void
}

const USUAL_TOLERANCE = 8
const MOST = 2
/** Where people begin: surfaces of buildings and furniture, light to dark. */
const SWATCHES: readonly [string, string][] = [
  ['f2f0ea', 'white'],
  ['c9c6bf', 'light grey'],
  ['7f7d79', 'grey'],
  ['26282a', 'black'],
  ['dcc9a3', 'sand'],
  ['b98d5c', 'oak'],
  ['6b452c', 'walnut'],
  ['a8442f', 'brick'],
  ['b01f24', 'red'],
  ['d79a2b', 'ochre'],
  ['6f7f4f', 'olive'],
  ['2f5d46', 'green'],
  ['5f8fa8', 'pale blue'],
  ['27476e', 'blue'],
]

/** One colour, or two together, with how far from it another may be. */
export function ColorBlock({ value, onChange }: Props) {
  const chosen = readValues(value).map(text => {
    const [hex, tolerance] = text.split('~')
    return { hex, tolerance: Number(tolerance ?? USUAL_TOLERANCE) }
  })
  const [typed, setTyped] = useState('')
  const write = (colors: readonly { hex: string; tolerance: number }[]) =>
    onChange(writeValues(colors.map(c => (c.tolerance === USUAL_TOLERANCE ? c.hex : `${c.hex}~${c.tolerance}`))))
  const add = (hex: string) => {
    const kept = chosen.filter(c => c.hex !== hex)
    write([...kept.slice(-(MOST - 1)), { hex, tolerance: kept.at(-1)?.tolerance ?? USUAL_TOLERANCE }])
  }
  const pick = async () => {
    // Who changes their mind presses Escape, which the browser tells as an error.
    const taken = await new window.EyeDropper!().open().catch(() => null)
    if (taken) add(taken.sRGBHex.slice(1).toLowerCase())
  }
  const hexTyped = /^#?([0-9a-f]{6})$/i.exec(typed.trim())?.[1].toLowerCase()
  return (
    <fieldset className="mb-4 min-w-0 break-inside-avoid">
      <legend className="mb-1 text-xs text-quiet">Colour, one or two together</legend>
      <div className="grid grid-cols-7 gap-1">
        {SWATCHES.map(([hex, name]) => (
          <button
            key={hex}
            type="button"
            onClick={() => add(hex)}
            aria-label={`Colour ${name}`}
            aria-pressed={chosen.some(c => c.hex === hex)}
            title={name}
            className="h-6 border border-edge aria-pressed:outline-2 aria-pressed:outline-ink"
            style={{ backgroundColor: `#${hex}` }}
          />
        ))}
      </div>
      <div className="mt-1.5 flex gap-1.5">
        <input
          type="color"
          aria-label="Pick a colour"
          title="Pick a colour"
          value={`#${chosen.at(-1)?.hex ?? 'b98d5c'}`}
          onChange={event => add(event.target.value.slice(1))}
          className="h-7 w-9 shrink-0 cursor-pointer rounded-sm border border-edge bg-mount p-0.5"
        />
        {window.EyeDropper && (
          <button
            type="button"
            onClick={pick}
            aria-label="Take a colour from the screen"
            title="Take a colour from anything on the screen: a photograph, a chip, another window"
            className="flex h-7 w-8 shrink-0 items-center justify-center rounded-sm border border-edge bg-mount hover:border-ink"
          >
            <Pipette aria-hidden className="size-3.5" />
          </button>
        )}
        <input
          value={typed}
          onChange={event => setTyped(event.target.value)}
          onKeyDown={event => {
            if (event.key !== 'Enter' || !hexTyped) return
            add(hexTyped)
            setTyped('')
          }}
          placeholder="#rrggbb"
          aria-label="Colour as hexadecimal digits"
          className={`${CONTROL} figures h-7 w-full text-xs`}
        />
      </div>
      {chosen.map(({ hex, tolerance }) => (
        <div key={hex} className="mt-1.5 flex items-center gap-1.5">
          <span className="size-5 shrink-0 border border-edge" style={{ backgroundColor: `#${hex}` }} />
          <input
            type="range"
            min={2}
            max={30}
            value={tolerance}
            aria-label={`How far from #${hex}, in ΔE00`}
            onChange={event => write(chosen.map(c => (c.hex === hex ? { hex, tolerance: Number(event.target.value) } : c)))}
            className="min-w-0 flex-1"
          />
          <span className="figures w-16 shrink-0 text-right text-xs">± {tolerance} ΔE</span>
          <button
            type="button"
            aria-label={`Without #${hex}`}
            onClick={() => write(chosen.filter(c => c.hex !== hex))}
            className="rounded-sm p-0.5 hover:bg-mount"
          >
            <X aria-hidden className="size-3.5" />
          </button>
        </div>
      ))}
    </fieldset>
  )
}
