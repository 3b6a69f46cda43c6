import { describe, expect, it } from 'vitest'
import { type Member, nearestAlike, sortFamily } from './sort-family'

const member = (name: string, color: string | null, roughness: number | null = 0.5): Member => ({
  id: name.length,
  code: name.toUpperCase(),
  name,
  preview: null,
  color,
  roughness,
})
const names = (list: Member[]) => list.map(m => m.name)

describe('a family', () => {
  const all = [
    member('blue', '#2030c0', 0.2),
    member('grey', '#808080', 0.9),
    member('red', '#c02020', null),
    member('unknown', null, 0.1),
    member('rust', '#b83020', 0.4),
    member('white', '#f0f0f0', 0.3),
  ]

  it('stands by hue with the greys after, by lightness, by roughness, by name', () => {
    const byHue = names(sortFamily(all, 'hue'))
    expect(byHue.slice(-3)).toEqual(['grey', 'white', 'unknown'])
    expect(Math.abs(byHue.indexOf('red') - byHue.indexOf('rust'))).toBe(1)
    expect(names(sortFamily(all, 'lightness')).slice(-2)).toEqual(['white', 'unknown'])
    expect(names(sortFamily(all, 'roughness'))).toEqual(['unknown', 'blue', 'white', 'rust', 'grey', 'red'])
    expect(names(sortFamily(all, 'name'))[0]).toBe('blue')
    expect(sortFamily(all, 'name')).toHaveLength(all.length)
  })

  it('marks who is too alike, and whom to', () => {
    const near = nearestAlike(all, 6)
    expect(near.get('RED')?.code).toBe('RUST')
    expect(near.get('RUST')?.deltaE).toBeLessThan(6)
    expect(near.has('BLUE')).toBe(false)
    expect(near.has('UNKNOWN')).toBe(false)
    expect(nearestAlike(all, 0.1).size).toBe(0)
  })
})
