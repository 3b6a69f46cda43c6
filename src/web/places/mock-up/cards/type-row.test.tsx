import { cleanup, screen } from '@testing-library/react'
import { useState } from 'react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Reach } from '#core/mock-up/materials/wearing'
import { applyChange, type Change } from '#core/mock-up/scene/change'
import { type ItemRef, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import { completeBrowser, renderPage } from '../../../testing/render-page'
import type { MockUpSession } from '../state/mock-up-session'
import type { Staged } from '../state/use-staged'
import { GoesTo } from './GoesTo'
import { TypeRow } from './TypeRow'

beforeAll(completeBrowser)
afterEach(cleanup)

const LIME: ItemRef = { code: 'PLA-0001', version: 1, inputKey: 'a'.repeat(64) }
const NAMES = ['Wall_W3_01', 'Wall_W3_02', 'Wall_W3_03', 'Partition left', 'Partition right']
const SITE = sceneSchema.parse({
  format: 1,
  stage: {
    kind: 'model',
    model: { key: 'b'.repeat(64), name: 'Site' },
    materials: { 'Partition right': { material: LIME } },
    wears: {},
  },
  ...{ pieces: {}, plantings: {}, groups: {}, skies: {}, shots: {} },
})
const book = { stageParts: NAMES.map(name => ({ name, own: 'Putz' })), partsOf: () => [] }

/** A part's card, as far as it is about how far a material goes. */
function Card({ part, onScene }: { part: string; onScene: (scene: Scene) => void }) {
  const [scene, setScene] = useState(SITE)
  const [reach, setReach] = useState<Reach>('part')
  const act = (change: Change) => {
    const next = applyChange(scene, change).scene
    setScene(next)
    onScene(next)
  }
  const spot = { piece: null, part }
  return (
    <>
      <GoesTo scene={scene} spot={spot} reach={reach} onReach={setReach} />
      <TypeRow
        scene={scene}
        session={{ act } as unknown as MockUpSession}
        staged={{ book } as unknown as Staged}
        spot={spot}
        reach={reach}
      />
    </>
  )
}

function show(part: string) {
  const scenes: Scene[] = []
  const { user } = renderPage(<Card part={part} onScene={scene => scenes.push(scene)} />)
  const choose = async (button: RegExp, option: RegExp) => {
    await user.click(screen.getByRole('button', { name: button }))
    await user.click(screen.getByRole('option', { name: option }))
  }
  const now = () => Object.values(scenes.at(-1)!.types).map(t => [t.name, t.spots.map(s => s.part)])
  return { user, choose, now, scenes }
}

describe('the type of a part', () => {
  it('is named by what the part says, and the others that say so join with one click', async () => {
    const { user, choose, now } = show('Wall_W3_02')
    await choose(/^Type: none/, /A new one: W3/)
    expect(now()).toEqual([['W3', ['Wall_W3_02']]])
    await user.click(screen.getByRole('button', { name: '2 more parts with W3 in the name' }))
    expect(now()).toEqual([['W3', ['Wall_W3_02', 'Wall_W3_01', 'Wall_W3_03']]])
    expect(screen.queryByRole('button', { name: /more part/ })).toBeNull()
    expect(screen.getByText(/^3 parts of it/)).toBeTruthy()
  })

  it('is named by hand where the part says nothing; it takes those that are reached, with what the one in hand wears', async () => {
    const { user, choose, now, scenes } = show('Partition right')
    await user.click(screen.getByRole('button', { name: /A material goes to/ }))
    expect(screen.queryByRole('option', { name: /type/ })).toBeNull()
    expect(screen.queryByRole('option', { name: /instance/ })).toBeNull()
    await user.click(screen.getByRole('option', { name: 'all named alike here' }))
    await choose(/^Type: none/, /A new one…/)
    await user.type(screen.getByRole('textbox', { name: 'Name of the new type' }), 'P1{Enter}')
    expect(now()).toEqual([['P1', ['Partition right', 'Partition left']]])
    expect(scenes.at(-1)!.stage.materials['Partition left'].material).toEqual(LIME)
    await choose(/A material goes to/, /all of type P1/)
    const name = screen.getByRole('textbox', { name: 'Name of the type' })
    await user.clear(name)
    await user.type(name, 'P2{Enter}')
    expect(now()).toEqual([['P2', ['Partition right', 'Partition left']]])
    // Out of it goes the part alone, though a material would go to all.
    await choose(/^Type: P2/, /^none/)
    expect(now()).toEqual([['P2', ['Partition left']]])
    expect(screen.getByRole('button', { name: 'A material goes to: this part' })).toBeTruthy()
  })
})
