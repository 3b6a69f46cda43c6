import { configureStore } from '@reduxjs/toolkit'
import { createElement, type FC, type ReactElement } from 'react'
import { renderToStaticMarkup } from 'react-dom/server'
import { Provider } from 'react-redux'
import { describe, expect, it } from 'vitest'
import type { Chip } from '#shared/contracts/chip.contract'
import type { FindingView, Sheet } from '#shared/contracts/items.contract'
import { FactTable } from '../places/sheet/FactTable'
import { ChipView } from '../places/wall/ChipView'
import { liveSlice, previewProgressed } from '../state/live.slice'
import { categoryTrail } from './CategoryPicker'
import { TextField } from './controls/Field'
import { FindingCounts, Findings } from './Findings'
import { Trouble } from './Notice'
import { PreviewFrame } from './PreviewFrame'
import { StateMark } from './StateMark'

const html = (element: ReactElement): string => renderToStaticMarkup(element)
const withStore = (store: ReturnType<typeof configureStore>, view: ReactElement): ReactElement =>
  createElement(Provider as FC<{ store: unknown }>, { store }, view)
const textOf = (markup: string): string =>
  markup
    .replace(/<[^>]+>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()

const finding = (severity: FindingView['severity'], message: string, subject: string | null = null): FindingView => ({
  id: null,
  code: 'x',
  severity,
  message,
  subject,
  fix: null,
  before: null,
  after: null,
})

describe('findings', () => {
  it('come worst first, each with its severity in words', () => {
    const text = textOf(
      html(
        createElement(Findings, {
          list: [finding('note', 'Third.'), finding('mustFix', 'First.', 'a/b/oak.png'), finding('shouldFix', 'Second.')],
        }),
      ),
    )
    expect(text).toBe('must fix oak.png First. should fix Second. note Third.')
  })

  it('are counted by what matters, with words for who cannot see the shapes', () => {
    expect(
      textOf(
        html(createElement(FindingCounts, { list: [finding('mustFix', ''), finding('mustFix', ''), finding('shouldFix', '')] })),
      ),
    ).toBe('2 must fix 1 should fix')
    expect(textOf(html(createElement(FindingCounts, { list: [finding('note', '')] })))).toBe('1 note')
    expect(textOf(html(createElement(FindingCounts, { list: [] })))).toBe('none')
  })
})

describe('state', () => {
  it('is told by a shape and a word', () => {
    const shapes = (['draft', 'inReview', 'approved', 'withdrawn'] as const).map(state =>
      html(createElement(StateMark, { state })),
    )
    expect(new Set(shapes.map(s => s.match(/<svg.*<\/svg>/s)![0])).size).toBe(4)
    expect(textOf(shapes[1])).toBe('in review')
  })
})

describe('a chip', () => {
  const chip: Chip = {
    id: 7,
    code: 'TIM-0007',
    name: 'Oak plank',
    kind: 'material',
    category: 'surfaces.timber',
    state: 'approved',
    library: 'House library',
    figure: '1.2 m wide',
    preview: null,
    isOlderPreview: false,
    isOwnPicture: false,
    dots: [],
  }
  const draw = (given: Partial<Chip>, share?: number) => {
    const store = configureStore({ reducer: { live: liveSlice.reducer } })
    if (share !== undefined) store.dispatch(previewProgressed({ inputKey: 'k', itemId: 7, share }))
    const view = createElement(ChipView, {
      chip: { ...chip, ...given },
      inTray: false,
      focused: true,
      index: 0,
      actions: { open: () => {}, tray: () => {}, focus: () => {}, carried: () => [] },
      meaningOf: String,
    })
    return html(withStore(store, view))
  }

  it('is a picture and a label: name, state, code and the one figure', () => {
    const markup = draw({ preview: '/api/previews/3' })
    expect(markup).toContain('src="/api/previews/3"')
    expect(textOf(markup)).toBe('Oak plank approved TIM-0007 1.2 m wide')
    expect(markup).toContain('aria-label="Put Oak plank in the tray"')
  })

  it('says that its picture waits, or how far it is', () => {
    expect(textOf(draw({}))).toContain('waiting to be rendered')
    expect(textOf(draw({}, 0.42))).toContain('rendering, 42 %')
  })
})

describe('facts', () => {
  it('carry units, leave out what another figure holds, and show colours as colours', () => {
    const facts: Sheet['facts'] = [
      { name: 'widthMm', value: 600 },
      { name: 'widthM', value: 0.6 },
      { name: 'meanColor', value: '#886458' },
      { name: 'palette', value: '#886458 0.700, #222222 0.300' },
      { name: 'maker', value: '' },
    ]
    const markup = html(createElement(FactTable, { sheet: { facts } as Sheet }))
    expect(textOf(markup)).toBe('Facts Real-world width 600 mm Mean colour #886458 Palette')
    expect(markup).toContain('flex-grow:0.7')
  })
})

describe('small parts', () => {
  it('a field is named, and its error read out', () => {
    const markup = html(createElement(TextField, { label: 'Width', error: 'More than 0 mm.' }))
    const id = markup.match(/for="([^"]+)"/)![1]
    expect(markup).toContain(`id="${id}"`)
    expect(markup).toContain(`aria-describedby="${id}-error"`)
    expect(markup).toContain('role="alert"')
  })

  it('trouble says its sentence and offers the way on', () => {
    const text = textOf(
      html(
        createElement(Trouble, { error: { data: { code: 'notFound', message: 'This item is not there.' } }, onRetry: () => {} }),
      ),
    )
    expect(text).toBe('This item is not there. Try again')
  })

  it('an empty mount keeps the aspect of a picture', () => {
    expect(html(createElement(PreviewFrame, { url: null, alt: '' }))).toMatch(/aspect-ratio:1\.33/)
  })

  it('the way to a category is its ancestors and itself', () => {
    const tree = ['surfaces', 'surfaces.timber', 'surfaces.stone', 'furniture'].map(path => ({
      path,
      title: path,
      kind: 'material' as const,
      prefix: 'X',
      rig: '',
      count: 0,
    }))
    expect(categoryTrail(tree, 'surfaces.timber').map(c => c.path)).toEqual(['surfaces', 'surfaces.timber'])
    expect(categoryTrail(tree, '')).toEqual([])
  })
})
