import { fromHex, toHex } from '#core/color/srgb'
import type { Vec3 } from '#core/math/vec3'

interface Props {
  label: string
  /** Linear Rec.709. */
  value: Vec3
  onChange: (value: Vec3) => void
}

/** A colour as a swatch that opens the system's own choice of one. */
export const ColorInput = ({ label, value, onChange }: Props) => (
  <input
    type="color"
    aria-label={label}
    value={toHex(value)}
    onChange={event => onChange(fromHex(event.target.value) ?? value)}
    className="h-6 w-9 shrink-0 cursor-pointer rounded-sm border border-edge bg-mount p-0.5"
  />
)
