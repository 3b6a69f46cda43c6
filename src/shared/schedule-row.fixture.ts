import type { ScheduleRow } from './contracts/schedules.contract'

/** For tests: a line of a schedule, 10 m² of a timber. */
export const scheduleRow = (code: string, over: Partial<ScheduleRow> = {}): ScheduleRow => ({
  key: `material ${code}`,
  code,
  version: 1,
  name: `Name of ${code}`,
  kind: 'material',
  category: 'Timber',
  preview: null,
  maker: 'Oddmere',
  productNumber: '',
  sheen: '',
  licence: '',
  size: '',
  unit: 'm2',
  net: 10,
  gross: 11,
  edgeM: 4,
  litres: null,
  weightKg: null,
  cost: null,
  where: [],
  scaled: 0,
  before: null,
  ...over,
})
