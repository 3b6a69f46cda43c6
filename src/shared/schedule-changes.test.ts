import { describe, expect, it } from 'vitest'
import { hasChanged, saidAmount, sinceKept, toKeptLine } from './schedule-changes'
import { scheduleRow } from './schedule-row.fixture'

const open = { itemId: 1, typed: null, measured: null }

describe('a schedule held against an earlier one', () => {
  it('says of each line what it was, what is new, and what went', () => {
    const kept = [scheduleRow('TIM-0001', { net: 10 }), scheduleRow('TIM-0002', { net: 4 })].map(toKeptLine)
    const { rows, gone } = sinceKept([scheduleRow('TIM-0001', { net: 12 }), scheduleRow('TIM-0003')], kept)
    expect(rows.map(r => r.before)).toEqual([{ net: 10 }, 'new'])
    expect(rows.map(hasChanged)).toEqual([true, true])
    expect(gone).toEqual([{ key: 'material TIM-0002', code: 'TIM-0002', name: 'Name of TIM-0002', unit: 'm2', net: 4 }])
  })

  it('takes no difference that nobody can see for one', () => {
    const [row] = sinceKept([scheduleRow('TIM-0001', { net: 10.001 })], [toKeptLine(scheduleRow('TIM-0001', { net: 10 }))]).rows
    expect(hasChanged(row)).toBe(false)
    expect(hasChanged(scheduleRow('TIM-0001'))).toBe(false)
  })

  it('tells what nobody said how much of from none of it', () => {
    const unsaid = scheduleRow('TIM-0001', { pin: open, net: 0 })
    expect(saidAmount(unsaid)).toBeNull()
    expect(saidAmount(scheduleRow('TIM-0001', { pin: { ...open, typed: 0 }, net: 0 }))).toBe(0)
    const [same] = sinceKept([unsaid], [toKeptLine(unsaid)]).rows
    expect(hasChanged(same)).toBe(false)
    const [said] = sinceKept([{ ...unsaid, pin: { ...open, typed: 0 } }], [toKeptLine(unsaid)]).rows
    expect(hasChanged(said)).toBe(true)
  })
})
