import { cleanup, screen, waitFor } from '@testing-library/react'
import { useState } from 'react'
import { afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import type { Category } from '#shared/contracts/items.contract'
import { completeBrowser, renderPage } from '../../testing/render-page'
import { CategoryChoice } from './CategoryChoice'
import { CheckBox } from './CheckBox'
import { Choice, ManyChoice } from './Choice'
import { findBranches, toBranches } from './category-branches'
import { DraftField } from './DraftField'
import { NumberInput } from './NumberInput'
import { parseNumber } from './parse-number'
import { Tabs } from './Tabs'
import { TextChoice } from './TextChoice'

beforeAll(completeBrowser)
afterEach(cleanup)

const KINDS = [
  { value: '', text: 'every kind' },
  { value: 'material', text: 'materials', count: 25 },
  { value: 'model', text: 'models', count: 8, disabled: true },
  { value: 'environment', text: 'skies', count: 3 },
] as const
type Kind = (typeof KINDS)[number]['value']

const category = (path: string, title: string): Category => ({ path, title, kind: 'material', prefix: 'XXX', rig: 'x', count: 1 })
const TREE = [
  category('surfaces', 'Surfaces'),
  category('surfaces.timber', 'Timber'),
  category('surfaces.timber.veneer', 'Veneer'),
  category('surfaces.concrete', 'Béton brut'),
  category('furniture', 'Furniture'),
  category('furniture.tables', 'Tables'),
]

function Chosen({ onChange }: { onChange: (path: string) => void }) {
  const [path, setPath] = useState('surfaces.timber')
  return (
    <CategoryChoice
      label="Category"
      none="Everything"
      categories={TREE}
      value={path}
      onChange={next => {
        setPath(next)
        onChange(next)
      }}
    />
  )
}

function Many({ onChange }: { onChange: (values: string[]) => void }) {
  const [values, setValues] = useState<string[]>([])
  return (
    <ManyChoice
      label="Kinds"
      none="all"
      values={values}
      options={KINDS.slice(1)}
      onChange={next => {
        setValues(next)
        onChange(next)
      }}
    />
  )
}

function Maker() {
  const [text, setText] = useState('')
  return (
    <>
      <TextChoice
        label="Maker"
        known={['Oddmere Surfaces', 'Zephyrine Skies', 'Oddmere Surfaces', '']}
        value={text}
        onChange={setText}
      />
      <output>{text}</output>
    </>
  )
}

function OneOf({ onChange }: { onChange: (kind: Kind) => void }) {
  const [kind, setKind] = useState<Kind>('')
  return (
    <Choice
      label="Kind"
      value={kind}
      options={KINDS}
      onChange={next => {
        setKind(next)
        onChange(next)
      }}
    />
  )
}

describe('a choice', () => {
  it('is made with the keys alone, passes over what cannot be chosen, and shows it with its name', async () => {
    const onChange = vi.fn()
    const { user } = renderPage(<OneOf onChange={onChange} />)
    await user.tab()
    expect(screen.getByRole('button', { name: 'Kind: every kind' })).toBe(document.activeElement)
    await user.keyboard(' ')
    expect(screen.getAllByRole('option').map(o => o.textContent)).toEqual(['every kind', 'materials25', 'models8', 'skies3'])
    await user.keyboard('{ArrowDown}{ArrowDown}{Enter}')
    expect(onChange.mock.calls).toEqual([['environment']])
    expect(screen.getByRole('button', { name: 'Kind: skies' })).toBeTruthy()
    expect(screen.queryByRole('listbox')).toBeNull()
  })

  it('is left as it was with Escape, the focus back where it came from', async () => {
    const onChange = vi.fn()
    const { user } = renderPage(<OneOf onChange={onChange} />)
    await user.click(screen.getByRole('button', { name: 'Kind: every kind' }))
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('listbox')))
    await user.keyboard('{ArrowDown}{Escape}')
    expect(screen.queryByRole('listbox')).toBeNull()
    expect(onChange).not.toHaveBeenCalled()
    expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Kind: every kind' }))
  })

  it('of many stays open while one chooses', async () => {
    const seen: string[][] = []
    const { user } = renderPage(<Many onChange={next => seen.push(next)} />)
    await user.click(screen.getByRole('button', { name: 'Kinds: all' }))
    await user.click(screen.getByRole('option', { name: /materials/ }))
    await user.click(screen.getByRole('option', { name: /skies/ }))
    await user.click(screen.getByRole('option', { name: /materials/ }))
    expect(seen).toEqual([['material'], ['material', 'environment'], ['environment']])
    await user.keyboard('{Escape}')
    expect(screen.getByRole('button', { name: 'Kinds: skies' })).toBeTruthy()
  })
})

describe('a category', () => {
  it('is found by typing a part of its way, with the keys alone', async () => {
    const onChange = vi.fn()
    const { user } = renderPage(<Chosen onChange={onChange} />)
    const field = screen.getByRole('combobox', { name: 'Category' }) as HTMLInputElement
    expect(field.value).toBe('Timber')
    await user.tab()
    expect(screen.getAllByRole('option')).toHaveLength(TREE.length + 1)
    await user.keyboard('surf ven')
    expect(screen.getAllByRole('option').map(o => o.textContent)).toEqual(['VeneerSurfaces / Timber'])
    await user.keyboard('{Enter}')
    expect(onChange.mock.calls).toEqual([['surfaces.timber.veneer']])
    expect(field.value).toBe('Veneer')
  })

  it('stays as it was after Escape or words that mean none', async () => {
    const onChange = vi.fn()
    const { user } = renderPage(<Chosen onChange={onChange} />)
    await user.click(screen.getByRole('combobox'))
    await user.keyboard('zebra')
    expect(screen.getByText('No category of this name')).toBeTruthy()
    await user.keyboard('{Escape}')
    await user.tab()
    expect((screen.getByRole('combobox') as HTMLInputElement).value).toBe('Timber')
    expect(onChange).not.toHaveBeenCalled()
  })

  it('is found without its accents, its own name before the names above it', () => {
    const branches = toBranches(TREE)
    expect(findBranches(branches, 'beton').map(b => b.path)).toEqual(['surfaces.concrete'])
    expect(findBranches(branches, 't').map(b => b.title)).toEqual(['Timber', 'Tables', 'Veneer'])
    expect(findBranches(branches, ' ')).toHaveLength(TREE.length)
    expect(branches.find(b => b.path === 'surfaces.timber.veneer')).toMatchObject({ depth: 2, trail: 'Surfaces / Timber' })
  })
})

describe('a figure', () => {
  it('is taken when it is left or entered, with a comma or a point, and only when it is one within its range', async () => {
    const onSettle = vi.fn()
    const { user } = renderPage(<NumberInput label="Width" unit="mm" min={1} max={5000} value={1200} onSettle={onSettle} />)
    const field = screen.getByRole('textbox', { name: 'Width, mm' }) as HTMLInputElement
    await user.clear(field)
    await user.type(field, '812,5{Enter}')
    expect(onSettle.mock.calls).toEqual([[812.5]])
    await user.clear(field)
    await user.type(field, '9000{Enter}')
    await user.clear(field)
    await user.type(field, 'wide{Enter}')
    expect(field.getAttribute('aria-invalid')).toBe('true')
    expect(field.title).toBe('A figure from 1 to 5000')
    expect(onSettle).toHaveBeenCalledTimes(1)
    await user.keyboard('{Escape}')
    expect([field.value, field.getAttribute('aria-invalid')]).toEqual(['1200', null])
    await user.clear(field)
    await user.tab()
    expect(onSettle.mock.calls[1]).toEqual([null])
  })

  it('is read as people write it', () => {
    expect(['12', '1 200,5', '1\u202f200.5', '-3', '.5', '+2.'].map(parseNumber)).toEqual([12, 1200.5, 1200.5, -3, 0.5, 2])
    for (const text of ['', '1,2,3', '12mm', 'e5', '0x10', '1e3']) expect(parseNumber(text)).toBeNaN()
  })
})

describe('a box', () => {
  it('is ticked by click, label and key, and tells whether Shift was held', async () => {
    const onChange = vi.fn()
    const { user } = renderPage(<CheckBox label="Mark all" checked={false} isPartly onChange={onChange} />)
    const box = screen.getByRole('checkbox', { name: 'Mark all' })
    expect(box.getAttribute('aria-checked')).toBe('mixed')
    await user.click(screen.getByText('Mark all'))
    await user.keyboard('{Shift>}')
    await user.click(box)
    await user.keyboard('{/Shift}')
    box.focus()
    await user.keyboard(' ')
    expect(onChange.mock.calls).toEqual([
      [true, false],
      [true, true],
      [true, false],
    ])
  })

  it('that is out of use does nothing', async () => {
    const onChange = vi.fn()
    const { user } = renderPage(<CheckBox label="Mark" isLabelHidden checked disabled onChange={onChange} />)
    await user.click(screen.getByRole('checkbox', { name: 'Mark' }))
    expect(onChange).not.toHaveBeenCalled()
  })
})

it('free text offers what was given before, and takes what was not', async () => {
  const { user } = renderPage(<Maker />)
  await user.click(screen.getByRole('combobox', { name: 'Maker' }))
  expect(screen.getAllByRole('option')).toHaveLength(2)
  await user.keyboard('sky{Backspace}{Backspace}')
  await user.keyboard('{Backspace}odd')
  expect(screen.getAllByRole('option').map(o => o.textContent)).toEqual(['Oddmere Surfaces'])
  await user.click(screen.getByRole('option'))
  expect(screen.getByRole('status').textContent).toBe('Oddmere Surfaces')
  await user.clear(screen.getByRole('combobox'))
  await user.type(screen.getByRole('combobox'), 'Somebody new')
  await user.tab()
  expect(screen.getByRole('status').textContent).toBe('Somebody new')
})

it('a draft is settled on leaving, and taken back by Escape', async () => {
  const onSettle = vi.fn()
  const { user } = renderPage(<DraftField label="Name" value="Oak" onSettle={onSettle} />)
  const field = screen.getByRole('textbox', { name: 'Name' })
  await user.type(field, ' plank{Escape}')
  expect((field as HTMLInputElement).value).toBe('Oak')
  await user.type(field, ' plank{Enter}')
  expect(onSettle.mock.calls).toEqual([['Oak plank']])
})

it('tabs are walked with the arrows and opened with Enter', async () => {
  const onChange = vi.fn()
  const tabs = [
    { value: 'rendered', text: 'Rendered' },
    { value: 'live', text: 'Live' },
  ] as const
  const { user } = renderPage(<Tabs label="Pictures" tabs={tabs} value="rendered" onChange={onChange} />)
  await user.tab()
  await user.keyboard('{ArrowRight}')
  expect(onChange).not.toHaveBeenCalled()
  await user.keyboard('{Enter}')
  expect(onChange.mock.calls).toEqual([['live']])
})
