import { readFileSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { inflateSync } from 'node:zlib'
import ExcelJS from 'exceljs'
import Papa from 'papaparse'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { SceneAuditView } from '#shared/contracts/audits.contract'
import type { Schedule, ScheduleForm, ScheduleRow } from '#shared/contracts/schedules.contract'
import { sinceKept, toKeptLine } from '#shared/schedule-changes'
import { scheduleRow } from '#shared/schedule-row.fixture'
import { formatNumber } from '#shared/units'
import { printable } from './pdf-page'
import { unwrapWoff } from './unwrap-woff'
import { writeAuditReport } from './write-audit-report'
import { writePicturePages } from './write-picture-pages'
import { writeSchedule } from './write-schedule'

let folder: string
let picture: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-documents-'))
  picture = join(folder, 'picture.webp')
  await sharp({ create: { width: 320, height: 240, channels: 3, background: '#884422' } })
    .webp()
    .toFile(picture)
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const row = (code: string, over: Partial<ScheduleRow>) =>
  scheduleRow(code, {
    ...{ name: 'Eiche geölt, größer', preview: '/api/previews/1', net: 12.3456, edgeM: 3 },
    where: [{ of: 'Stage', part: 'floor', group: null, type: null, count: 1, amount: 12.3456 }],
    ...over,
  })
const schedule: Schedule = {
  title: 'Reading room',
  project: 'READING Refit',
  rows: [
    row('TIM-0001', {}),
    row('CHR-0001', { kind: 'model', name: '=HYPERLINK("x")', unit: 'pieces', net: 4, gross: 4, edgeM: null, where: [] }),
  ],
  missing: [],
  gone: [],
}
const write = (form: ScheduleForm, rows = schedule.rows, gone: Schedule['gone'] = []) =>
  writeSchedule({
    schedule: { ...schedule, rows, gone },
    layout: { columns: ['picture', 'code', 'name', 'quantity', 'edge', 'where'], group: 'kind', sort: 'code', wastePercent: 0 },
    form,
    pictures: { '/api/previews/1': picture },
    date: '28 November 2026',
  })

describe('a schedule as a file', () => {
  it('is read as CSV with figures apart from their units, and nothing in it is taken for a formula', async () => {
    const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(await write('csv'))
    expect(text.charCodeAt(0)).toBe(0xfeff)
    const { data } = Papa.parse<string[]>(text.slice(1).trim())
    expect(data[0]).toEqual(['Group', 'Code', 'Name', 'Quantity', 'Unit', 'Open edges, m', 'Where used'])
    expect(data[1]).toEqual(['Materials', 'TIM-0001', 'Eiche geölt, größer', '12.346', 'm²', '3', 'floor'])
    expect(data[2].slice(1, 5)).toEqual(['CHR-0001', `'=HYPERLINK("x")`, '4', 'pcs'])
  })

  it('says what each line was where it is held against an earlier one, and what went', async () => {
    const kept = [toKeptLine(row('TIM-0001', { net: 12.3456 })), toKeptLine(row('TIM-0009', { net: 7 }))]
    const { rows, gone } = sinceKept(schedule.rows, kept)
    const { data } = Papa.parse<string[]>(new TextDecoder().decode(await write('csv', rows, gone)).trim())
    expect(data.map(line => [line[0], line[1], line[5]])).toEqual([
      ['Group', 'Code', 'Was'],
      ['Materials', 'TIM-0001', '12.346'],
      ['Furniture and plants', 'CHR-0001', 'new'],
      ['Not in it any more', 'TIM-0009', '7'],
    ])
    const book = new ExcelJS.Workbook()
    await book.xlsx.load((await write('xlsx', rows, gone)).buffer as ArrayBuffer)
    expect((book.worksheets[0].getRow(3).values as unknown[]).slice(1)).toContain('Was')
    expect(pagesOf(await write('pdf', rows, gone))).toBe(1)
  })

  it('is read as XLSX with numbers as numbers and a picture in each line that has one', async () => {
    const book = new ExcelJS.Workbook()
    await book.xlsx.load((await write('xlsx')).buffer as ArrayBuffer)
    const [sheet] = book.worksheets
    const lines = Array.from({ length: sheet.rowCount }, (_, k) => (sheet.getRow(k + 1).values as unknown[]).slice(1))
    expect(lines[0]).toEqual(['Reading room'])
    const oak = lines.find(l => l[1] === 'TIM-0001')!
    expect(oak.slice(1)).toEqual(['TIM-0001', 'Eiche geölt, größer', 12.346, 'm²', 3, 'floor'])
    expect(sheet.getImages()).toHaveLength(2)
  })

  it('fills pages as PDF, as many as it needs, in typefaces of its own', async () => {
    const short = await write('pdf')
    expect(pagesOf(short)).toBe(1)
    expect(textOf(short)).toContain('FontFile2')
    const many = Array.from({ length: 60 }, (_, k) => row(`TIM-${String(k).padStart(4, '0')}`, {}))
    expect(pagesOf(await write('pdf', many))).toBeGreaterThan(3)
  })
})

describe('pictures of a mock-up as pages', () => {
  it('have a page each, and one of what is in them', async () => {
    const pdf = await writePicturePages({
      title: 'Terrace',
      project: null,
      date: '28 November 2026',
      pictures: [
        { path: picture, caption: 'Front', note: 'Draft' },
        { path: picture, caption: 'Side', note: '' },
      ],
      items: [{ code: 'TIM-0001', name: 'Oak', maker: 'Oddmere', licence: 'All projects' }],
    })
    expect(pagesOf(pdf)).toBe(3)
    expect(textOf(pdf).match(/\/Subtype \/Image/g)).toHaveLength(2)
  })
})

describe('the report of an audit', () => {
  const thing = {
    ...{ version: 1, itemName: 'Oak plank', preview: null, nearest: [], remarks: [], isCorrectable: true },
    evidence: [{ kind: 'stamp' as const, text: 'Stamped TIM-0001, version 1, when it was handed over' }],
    changes: [{ what: 'specularRoughness', from: 0.5, to: 0.3 }],
  }
  const material = (index: number, of: 'altered' | 'pinned') => ({
    ...{ ...thing, name: `Eiche ${index}`, class: of, code: 'TIM-0001', index, ofModel: null, areaM2: 12, places: ['floor'] },
    ...{ flipMean: 0.1, deltaE00: 2, pictures: null },
  })
  const audit = (altered: number): SceneAuditView => ({
    ...{ id: 1, title: 'room.glb', projectId: 1, state: 'ready', step: '', share: 1, message: null, things: 3, person: 'Ada' },
    shares: { byArea: { altered: 0.4, pinned: 0.6 }, byCount: { altered: 0.5, pinned: 0.5 } },
    ...{ createdAt: '2026-11-28T10:00:00.000Z', project: 'FERRY', form: 'gltf', triangles: 100, models: [], lights: [] },
    materials: [...Array.from({ length: altered }, (_, k) => material(k, 'altered')), material(99, 'pinned')],
    ...{ failures: [], comparedWith: 3, notCompared: 0, correction: null },
  })

  it('shows what is not as pinned with both of its pictures, on as many pages as that takes', async () => {
    const pictures: Record<number, [string, string]> = { 0: [picture, picture] }
    const short = await writeAuditReport({ audit: audit(2), pictures, date: '28 November 2026' })
    expect(pagesOf(short)).toBe(1)
    expect(textOf(short).match(/\/Subtype \/Image/g)).toHaveLength(2)
    expect(pagesOf(await writeAuditReport({ audit: audit(60), pictures, date: '28 November 2026' }))).toBeGreaterThan(3)
  })
})

describe('what is written on a page', () => {
  it('has a sign for everything in the typefaces that it is written in', () => {
    expect(printable(`${formatNumber(14_400, 0)} at ≥ 2, ΔE00 → 1`)).toBe('14\u00a0400 at from  2, dE00 to 1')
  })
})

describe('a font in its wrapping', () => {
  const { resolve } = createRequire(import.meta.url)
  const woff = readFileSync(resolve('@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff'))

  it('comes out with every table as it went in', () => {
    const font = Buffer.from(unwrapWoff(woff))
    const count = woff.readUInt16BE(12)
    expect(font.readUInt16BE(4)).toBe(count)
    for (let k = 0; k < count; k++) {
      const [tag, offset, packed, size] = [0, 4, 8, 12].map(at => woff.readUInt32BE(44 + 20 * k + at))
      const given = woff.subarray(offset, offset + packed)
      const [ownTag, at, length] = [0, 8, 12].map(i => font.readUInt32BE(12 + 16 * k + i))
      expect([ownTag, length]).toEqual([tag, size])
      expect(font.subarray(at, at + length).equals(packed < size ? inflateSync(given) : given)).toBe(true)
    }
  })

  it('is refused where it is none', () => {
    expect(() => unwrapWoff(new Uint8Array(10))).toThrow('no WOFF')
    expect(() => unwrapWoff(new Uint8Array(100))).toThrow('no WOFF')
  })
})

const textOf = (pdf: Uint8Array): string => Buffer.from(pdf).toString('latin1')
const pagesOf = (pdf: Uint8Array): number => textOf(pdf).match(/\/Type \/Page\b/g)?.length ?? 0
