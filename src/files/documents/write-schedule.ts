import ExcelJS from 'exceljs'
import Papa from 'papaparse'
import sharp from 'sharp'
import type { Schedule, ScheduleForm, ScheduleLayout } from '#shared/contracts/schedules.contract'
import {
  COLUMN_WORDS,
  cellOf,
  type ScheduleSection,
  type ShownColumn,
  type ShownRow,
  showSchedule,
} from '#shared/schedule-layout'
import { beginPdf, finishPdf, MARGIN } from './pdf-page'

export interface ScheduleRequest {
  schedule: Schedule
  layout: ScheduleLayout
  form: ScheduleForm
  /** Paths of pictures by the addresses that rows have. */
  pictures: Readonly<Record<string, string>>
  /** As it is said at the foot: "27 November 2026". */
  date: string
}

/** A schedule as a file: values apart from their units in CSV and XLSX, pictures in XLSX and PDF. */
export async function writeSchedule({ schedule, layout, form, pictures, date }: ScheduleRequest): Promise<Uint8Array> {
  const { columns, sections } = showSchedule(schedule, layout)
  switch (form) {
    case 'csv':
      return writeCsv(sections, columns)
    case 'xlsx':
      return writeXlsx(schedule, sections, columns, await openPictures(pictures, 96))
    case 'pdf':
      return writePdf(schedule, sections, columns, await openPictures(pictures, 160), date)
    default:
      return form satisfies never
  }
}

type Pictures = ReadonlyMap<string, Buffer>

async function openPictures(paths: ScheduleRequest['pictures'], widthPx: number): Promise<Pictures> {
  const opened = await Promise.all(
    Object.entries(paths).map(async ([address, path]): Promise<[string, Buffer][]> => {
      const jpeg = await sharp(path)
        .resize({ width: widthPx })
        .flatten({ background: '#ffffff' })
        .jpeg({ quality: 85 })
        .toBuffer()
        .catch(() => null)
      return jpeg ? [[address, jpeg]] : []
    }),
  )
  return new Map(opened.flat())
}

/** Headings with the unit where a column has one all over. */
function headings(columns: readonly ShownColumn[]): string[] {
  const units: Partial<Record<ShownColumn, string>> = { edge: 'm', litres: 'l', weight: 'kg' }
  return columns.flatMap(c => {
    if (c === 'quantity' || c === 'gross') return [COLUMN_WORDS[c], 'Unit']
    return [units[c] ? `${COLUMN_WORDS[c]}, ${units[c]}` : COLUMN_WORDS[c]]
  })
}

function valuesOf(row: ShownRow, columns: readonly ShownColumn[]): (string | number)[] {
  return columns.flatMap(c => {
    const cell = cellOf(row, c)
    const value = cell.figure === null ? cell.text : Math.round(cell.figure * 1000) / 1000
    return c === 'quantity' || c === 'gross' ? [value, row.unit === 'm2' ? 'm²' : 'pcs'] : [value]
  })
}

function writeCsv(sections: readonly ScheduleSection[], given: readonly ShownColumn[]): Uint8Array {
  const columns = given.filter(c => c !== 'picture')
  const rows = sections.flatMap(s => s.rows.map(row => [s.title, ...valuesOf(row, columns)]))
  const text = Papa.unparse([['Group', ...headings(columns)], ...rows], { escapeFormulae: true, newline: '\r\n' })
  // Spreadsheets take a file for UTF-8 by its mark.
  return new TextEncoder().encode(`\ufeff${text}\r\n`)
}

const WIDTHS: Partial<Record<ShownColumn, number>> = { picture: 14, name: 32, where: 48, size: 20, maker: 20 }

async function writeXlsx(
  schedule: Schedule,
  sections: readonly ScheduleSection[],
  columns: readonly ShownColumn[],
  pictures: Pictures,
): Promise<Uint8Array> {
  const book = new ExcelJS.Workbook()
  book.creator = 'Muscovite'
  const sheet = book.addWorksheet('Schedule', { views: [{ state: 'frozen', ySplit: 3 }] })
  sheet.addRow([schedule.title]).font = { bold: true, size: 14 }
  sheet.addRow([schedule.project ?? ''])
  sheet.addRow(headings(columns)).font = { bold: true }
  const widths = columns.flatMap(c => (c === 'quantity' || c === 'gross' ? [12, 6] : [WIDTHS[c] ?? 14]))
  widths.forEach((width, k) => {
    sheet.getColumn(k + 1).width = width
  })
  const pictureAt = columns.indexOf('picture')
  for (const { title, rows } of sections) {
    if (title) sheet.addRow([title]).font = { bold: true }
    for (const row of rows) {
      const line = sheet.addRow(valuesOf(row, columns))
      line.alignment = { vertical: 'top', wrapText: true }
      const picture = pictureAt >= 0 && row.preview ? pictures.get(row.preview) : undefined
      if (!picture) continue
      line.height = 56
      const image = book.addImage({ buffer: picture as never, extension: 'jpeg' })
      sheet.addImage(image, { tl: { col: pictureAt + 0.05, row: line.number - 0.95 }, ext: { width: 92, height: 69 } })
    }
  }
  return new Uint8Array(await book.xlsx.writeBuffer())
}

/** Of the width of the page, against each other. */
const SHARES: Record<ShownColumn, number> = {
  picture: 7,
  code: 8,
  name: 16,
  maker: 11,
  productNumber: 9,
  sheen: 7,
  size: 12,
  quantity: 9,
  gross: 9,
  was: 9,
  edge: 8,
  litres: 7,
  weight: 8,
  cost: 8,
  where: 24,
  licence: 12,
}
const RIGHT: readonly ShownColumn[] = ['quantity', 'gross', 'was', 'edge', 'litres', 'weight', 'cost']
const GAP = 8
const PICTURE_HEIGHT = 34

async function writePdf(
  schedule: Schedule,
  sections: readonly ScheduleSection[],
  columns: readonly ShownColumn[],
  pictures: Pictures,
  date: string,
): Promise<Uint8Array> {
  const pdf = beginPdf(schedule.title, 'landscape')
  const whole = pdf.page.width - 2 * MARGIN
  const shares = columns.reduce((sum, c) => sum + SHARES[c], 0)
  const widthOf = (c: ShownColumn) => (whole * SHARES[c]) / shares
  const bottom = pdf.page.height - MARGIN - 12
  pdf.font('strong').fontSize(16).text(schedule.title, MARGIN, MARGIN)
  pdf.font('text').fontSize(9).fillColor('#555555').text([schedule.project, date].filter(Boolean).join(', '))
  pdf.fillColor('#141414')
  let y = pdf.y + 10
  const rule = (weight: number) =>
    pdf
      .moveTo(MARGIN, y)
      .lineTo(MARGIN + whole, y)
      .lineWidth(weight)
      .strokeColor('#999999')
      .stroke()
  const cells = (texts: readonly string[], font: (c: ShownColumn) => string) => {
    let x = MARGIN
    columns.forEach((c, k) => {
      pdf.font(font(c)).text(texts[k], x, y + 4, { width: widthOf(c) - GAP, align: RIGHT.includes(c) ? 'right' : 'left' })
      x += widthOf(c)
    })
  }
  const head = () => {
    pdf.fontSize(8)
    cells(
      columns.map(c => (c === 'picture' ? '' : COLUMN_WORDS[c])),
      () => 'strong',
    )
    y += 18
    rule(0.8)
  }
  const turn = (needed: number) => {
    if (y + needed <= bottom) return
    pdf.addPage()
    y = MARGIN
    head()
  }
  const fontOf = (c: ShownColumn) => (RIGHT.includes(c) || c === 'code' ? 'figures' : 'text')
  head()
  for (const { title, rows } of sections) {
    if (title) {
      turn(20 + PICTURE_HEIGHT)
      y += 6
      pdf
        .font('strong')
        .fontSize(9)
        .text(title, MARGIN, y + 3)
      y += 18
    }
    for (const row of rows) {
      pdf.fontSize(8)
      const texts = columns.map(c => cellOf(row, c).text)
      const heights = columns.map((c, k) => pdf.font(fontOf(c)).heightOfString(texts[k] || ' ', { width: widthOf(c) - GAP }))
      const picture = columns.includes('picture') && row.preview ? pictures.get(row.preview) : undefined
      const height = Math.max(...heights, picture ? PICTURE_HEIGHT : 0) + 8
      turn(height)
      rule(0.4)
      cells(texts, fontOf)
      if (picture) {
        const before = columns.slice(0, columns.indexOf('picture')).reduce((sum, c) => sum + widthOf(c), 0)
        pdf.image(picture, MARGIN + before, y + 4, { fit: [widthOf('picture') - GAP, PICTURE_HEIGHT] })
      }
      y += height
    }
  }
  rule(0.4)
  return finishPdf(pdf, [schedule.title, schedule.project, date].filter(Boolean).join(', '))
}
