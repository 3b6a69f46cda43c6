import { cleanup, screen } from '@testing-library/react'
import { useState } from 'react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import { completeBrowser, renderPage } from '../../../testing/render-page'
import { ColorBlock } from './ColorBlock'

beforeAll(completeBrowser)
afterEach(() => {
  cleanup()
  delete window.EyeDropper
})

/** Colours as the address would hold them. */
function Colors() {
  const [value, setValue] = useState('')
  return (
    <>
      <ColorBlock value={value} onChange={setValue} />
      <output>{value}</output>
    </>
  )
}
const held = () => screen.getByRole('status').textContent

/** A browser whose pipette is put down on these colours, one after the other; on null somebody presses Escape. */
function givePipette(colors: (string | null)[]): void {
  window.EyeDropper = class {
    async open() {
      const sRGBHex = colors.shift()
      if (!sRGBHex) throw new DOMException('The user canceled the selection.', 'AbortError')
      return { sRGBHex }
    }
  }
}

describe('a colour to narrow by', () => {
  it('is taken from the screen, the last two of them kept; who changes their mind changes nothing', async () => {
    givePipette(['#A8442F', null, '#27476e', '#6f7f4f'])
    const { user } = renderPage(<Colors />)
    const pipette = screen.getByRole('button', { name: 'Take a colour from the screen' })
    await user.click(pipette)
    expect(held()).toBe('a8442f')
    await user.click(pipette)
    expect(held()).toBe('a8442f')
    await user.click(pipette)
    expect(held()).toBe('a8442f|27476e')
    await user.click(pipette)
    expect(held()).toBe('27476e|6f7f4f')
  })

  it('has no pipette where the browser has none; it is chosen or typed', async () => {
    const { user } = renderPage(<Colors />)
    expect(screen.queryByRole('button', { name: 'Take a colour from the screen' })).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Colour oak' }))
    await user.type(screen.getByLabelText('Colour as hexadecimal digits'), '#A8442F{Enter}')
    expect(held()).toBe('b98d5c|a8442f')
    // What is no colour changes nothing.
    await user.type(screen.getByLabelText('Colour as hexadecimal digits'), 'reddish{Enter}')
    expect(held()).toBe('b98d5c|a8442f')
  })
})
