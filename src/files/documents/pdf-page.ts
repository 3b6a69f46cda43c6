import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import PDFDocument from 'pdfkit'
import { unwrapWoff } from './unwrap-woff'

export type Pdf = InstanceType<typeof PDFDocument>

const FONTS = {
  text: '@fontsource/instrument-sans/files/instrument-sans-latin-400-normal.woff',
  strong: '@fontsource/instrument-sans/files/instrument-sans-latin-600-normal.woff',
  figures: '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff',
} as const
export type PdfFont = keyof typeof FONTS

const { resolve } = createRequire(import.meta.url)
const opened = new Map<PdfFont, Buffer>()
const fontOf = (name: PdfFont): Buffer => {
  const font = opened.get(name) ?? Buffer.from(unwrapWoff(readFileSync(resolve(FONTS[name]))))
  opened.set(name, font)
  return font
}

/** Of a page, in points. */
export const MARGIN = 36

/** A document of A4 pages with the house's typefaces; each page gets its number and the title at its foot when it is written. */
export function beginPdf(title: string, layout: 'portrait' | 'landscape'): Pdf {
  const pdf = new PDFDocument({
    size: 'A4',
    layout,
    margin: MARGIN,
    bufferPages: true,
    info: { Title: title, Creator: 'Muscovite' },
  })
  for (const name of Object.keys(FONTS) as PdfFont[]) pdf.registerFont(name, fontOf(name))
  const write = pdf.text.bind(pdf) as (text: string, ...rest: unknown[]) => Pdf
  pdf.text = ((text: string, ...rest: unknown[]) => write(printable(text), ...rest)) as Pdf['text']
  pdf.font('text').fontSize(9)
  return pdf
}

/** What the typefaces have no sign for, in signs that they have. */
const INSTEAD: Record<string, string> = { '\u2009': '\u00a0', '\u202f': '\u00a0', Δ: 'd', '→': 'to', '≥': 'from ', '≤': 'up to ' }
export const printable = (text: string): string => text.replace(/[\u2009\u202fΔ→≥≤]/g, sign => INSTEAD[sign])

/** Signs the pages and gives the bytes. */
export function finishPdf(pdf: Pdf, foot: string): Promise<Uint8Array> {
  const { start, count } = pdf.bufferedPageRange()
  for (let k = 0; k < count; k++) {
    pdf.switchToPage(start + k)
    const { width, height } = pdf.page
    // Below the margin, where text would begin another page.
    pdf.page.margins.bottom = 0
    pdf.font('text').fontSize(7).fillColor('#555555')
    pdf.text(foot, MARGIN, height - 24, { width: width - 2 * MARGIN - 60, lineBreak: false, ellipsis: true })
    pdf.text(`${k + 1} of ${count}`, width - MARGIN - 60, height - 24, { width: 60, align: 'right', lineBreak: false })
  }
  return new Promise(done => {
    const chunks: Buffer[] = []
    pdf.on('data', (chunk: Buffer) => chunks.push(chunk))
    pdf.on('end', () => done(new Uint8Array(Buffer.concat(chunks))))
    pdf.end()
  })
}
