import { describe, expect, it } from 'vitest'
import type { ScheduleRow } from '#shared/contracts/schedules.contract'
import { scheduleRow } from '#shared/schedule-row.fixture'
import { fillDown } from './fill-down'

const row = (itemId: number | null, unit: 'm2' | 'pieces' = 'm2'): ScheduleRow =>
  scheduleRow('TIM-0001', { key: `row ${itemId}`, unit, pin: itemId === null ? null : { itemId, typed: null, measured: null } })
const rows = [row(1), row(null), row(2), row(3, 'pieces'), row(4)]

describe('fillDown', () => {
  it('puts a column to the rows from where it was pasted, past those that have no pin', () => {
    expect(fillDown(rows, rows[0], '12,5 m²\r\n1 200.5\n3 pcs\n')).toEqual({
      quantities: [
        { itemId: 1, amount: 12.5 },
        { itemId: 2, amount: 1200.5 },
        { itemId: 3, amount: 3 },
      ],
      unread: [],
    })
  })

  it('takes back what was typed where a line is empty, and the first column of several', () => {
    expect(fillDown(rows, rows[2], '\n4\tchairs').quantities).toEqual([
      { itemId: 2, amount: null },
      { itemId: 3, amount: 4 },
    ])
  })

  it('takes nothing where a line is no figure, or a part of a piece', () => {
    expect(fillDown(rows, rows[0], '1\ntwo\n3')).toEqual({ quantities: [], unread: ['two'] })
    expect(fillDown(rows, rows[3], '2.5')).toEqual({ quantities: [], unread: ['2.5'] })
    expect(fillDown(rows, rows[0], '-1').unread).toEqual(['-1'])
  })

  it('leaves out lines for which there are no rows', () => {
    expect(fillDown(rows, rows[4], '7\n8\n9').quantities).toEqual([{ itemId: 4, amount: 7 }])
  })
})
