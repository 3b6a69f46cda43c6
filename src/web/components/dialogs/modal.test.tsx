import { cleanup, screen } from '@testing-library/react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import { completeBrowser, renderPage } from '../../testing/render-page'
import { ManyChoice } from '../controls/Choice'
import { Modal } from './Modal'

const wait = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

beforeAll(completeBrowser)
afterEach(cleanup)

const WHO = [
  { value: '1', text: 'Ada Gull' },
  { value: '2', text: 'Bo Tern' },
]

describe('a sheet over the page', () => {
  const draw = () =>
    renderPage(
      <Modal title="Send" onClose={() => {}}>
        <ManyChoice label="To" none="To whom?" values={[]} options={WHO} onChange={() => {}} />
      </Modal>,
    )

  it('has the keyboard in its first field, however it was opened', async () => {
    draw()
    await wait(150)
    expect(document.activeElement).toBe(screen.getByRole('button', { name: /^To: / }))
  })

  it('leaves the keyboard to a list that somebody quick has opened before', async () => {
    const { user } = draw()
    screen.getByRole('button', { name: /^To: / }).focus()
    await user.keyboard('{ArrowDown}')
    expect(document.activeElement).toBe(await screen.findByRole('listbox'))
    await wait(150)
    expect(document.activeElement).toBe(screen.getByRole('listbox'))
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('listbox')).toBeNull()
  })
})
