import type { ComponentProps } from 'react'
import { NumberInput } from './controls/NumberInput'
import { Line } from './Line'

interface Props extends Omit<ComponentProps<typeof NumberInput>, 'label'> {
  text: string
  /** Its name for who hears the page, where the text is too short for that. */
  label?: string
}

/** A figure, and at the left what it is. */
export const FigureLine = ({ text, label = text, className = 'w-28', ...rest }: Props) => (
  <Line text={text}>
    <NumberInput label={label} className={className} {...rest} />
  </Line>
)
