import sharp from 'sharp'
import type { AuditClass } from '#core/audit/reference'
import { CLASS_ORDER, CLASS_WORDS, changeWord } from '#shared/audit-words'
import type { AuditedMaterialView, AuditedModelView, SceneAuditView } from '#shared/contracts/audits.contract'
import { formatNumber } from '#shared/units'
import { beginPdf, finishPdf, MARGIN, type Pdf } from './pdf-page'

export interface AuditReportRequest {
  audit: SceneAuditView
  /** Paths of pictures by the numbers of materials: as the library has it, as it is in the scene. */
  pictures: Record<number, [library: string, scene: string]>
  date: string
}

type Thing = AuditedMaterialView | AuditedModelView

const INK = '#141414'
const QUIET = '#555555'
const RULE = '#999999'
const PICTURE_PX = 480
const PICTURE = { width: 120, height: 90 }
const GAP = 8

/** An audit on A4 pages: how much of the scene is what, then everything that is not as pinned with its pictures, then the rest by name. */
export async function writeAuditReport({ audit, pictures, date }: AuditReportRequest): Promise<Uint8Array> {
  const pdf = beginPdf(audit.title, 'portrait')
  const width = pdf.page.width - 2 * MARGIN
  writeHead(pdf, audit, date, width)
  const things: Thing[] = [...audit.materials, ...audit.models]
  const told = CLASS_ORDER.filter(c => c !== 'pinned').flatMap(c => things.filter(t => t.class === c))
  for (const thing of told) await writeThing(pdf, thing, 'index' in thing ? pictures[thing.index] : undefined, width)
  const pinned = things.filter(t => t.class === 'pinned')
  if (pinned.length > 0) {
    makeRoom(pdf, 60)
    rule(pdf, width)
    pdf
      .font('strong')
      .fontSize(10)
      .fillColor(INK)
      .text(`As pinned, ${pinned.length}`, MARGIN, pdf.y + GAP)
    pdf.font('text').fontSize(8).fillColor(QUIET)
    pdf.text(
      pinned.map(t => `${t.name}${t.code && !t.name.includes(t.code) ? ` (${t.code})` : ''}`).join(', '),
      MARGIN,
      pdf.y + 4,
      { width },
    )
  }
  return finishPdf(pdf, [audit.title, audit.project, date].filter(Boolean).join(', '))
}

function writeHead(pdf: Pdf, audit: SceneAuditView, date: string, width: number): void {
  pdf.font('strong').fontSize(16).fillColor(INK).text(audit.title, MARGIN, MARGIN, { width })
  const compared = audit.project ? `held against ${audit.project}` : 'held against the library'
  pdf.font('text').fontSize(9).fillColor(QUIET).text(`${compared}, ${date}, by ${audit.person}`, { width })
  pdf.moveDown(0.8)
  const { byArea = {}, byCount = {} } = audit.shares ?? {}
  const bar = (label: string, shares: Partial<Record<AuditClass, number>>) => {
    const top = pdf.y
    pdf
      .font('text')
      .fontSize(8)
      .fillColor(QUIET)
      .text(label, MARGIN, top + 1, { width: 70 })
    let x = MARGIN + 72
    for (const [k, c] of CLASS_ORDER.toReversed().entries()) {
      const span = (shares[c] ?? 0) * (width - 72)
      if (span <= 0) continue
      const tone = Math.round(20 + (k / (CLASS_ORDER.length - 1)) * 215)
      pdf.rect(x, top, span, 10).fillAndStroke([tone, tone, tone], RULE)
      x += span
    }
    pdf.y = top + 14
  }
  pdf.lineWidth(0.4)
  bar('By surface', byArea)
  bar('By number', byCount)
  const line = CLASS_ORDER.filter(c => (byCount[c] ?? 0) > 0)
    .toReversed()
    .map(c => `${CLASS_WORDS[c]} ${percent(byArea[c])} / ${percent(byCount[c])}`)
    .join(' · ')
  pdf
    .font('text')
    .fontSize(8)
    .fillColor(INK)
    .text(line, MARGIN, pdf.y + 2, { width })
  for (const failure of audit.failures.slice(0, 5)) pdf.fillColor(QUIET).text(failure, { width })
  pdf.moveDown(0.8)
}

const percent = (share = 0): string => (share > 0 && share < 0.01 ? '<1 %' : `${Math.round(share * 100)} %`)

async function writeThing(pdf: Pdf, thing: Thing, paths: readonly [string, string] | undefined, width: number): Promise<void> {
  makeRoom(pdf, paths ? PICTURE.height + 28 : 48)
  rule(pdf, width)
  const top = pdf.y + GAP
  const left = paths ? MARGIN + 2 * (PICTURE.width + GAP) : MARGIN
  if (paths)
    for (const [k, path] of paths.entries()) {
      const x = MARGIN + k * (PICTURE.width + GAP)
      const jpeg = await sharp(path).resize({ width: PICTURE_PX }).jpeg({ quality: 88 }).toBuffer()
      pdf.image(jpeg, x, top, { fit: [PICTURE.width, PICTURE.height] })
      pdf
        .font('text')
        .fontSize(6.5)
        .fillColor(QUIET)
        .text(k === 0 ? 'as the library has it' : 'as it is in the scene', x, top + PICTURE.height + 1, { width: PICTURE.width })
    }
  const room = { width: MARGIN + width - left }
  pdf.font('strong').fontSize(10).fillColor(INK).text(thing.name, left, top, room)
  pdf.font('text').fontSize(8).text(sayClass(thing), left, pdf.y, room)
  const lines = [...saySize(thing), ...thing.changes.map(sayChange), ...thing.remarks, ...thing.evidence.map(e => e.text)]
  pdf.fillColor(QUIET)
  for (const line of lines.slice(0, MOST_LINES)) pdf.text(line, left, pdf.y, room)
  pdf.y = Math.max(pdf.y, paths ? top + PICTURE.height + 10 : 0) + GAP
}

const MOST_LINES = 9

function sayClass({ class: c, code, version, itemName, nearest }: Thing): string {
  const item =
    code === null ? '' : ` — ${[code, itemName].filter(Boolean).join(' ')}${version === null ? '' : `, version ${version}`}`
  const like = code === null && nearest.length > 0 ? ` — most like ${nearest.map(n => `${n.code} ${n.name}`).join(', ')}` : ''
  return `${CLASS_WORDS[c]}${item}${like}`
}

function saySize(thing: Thing): string[] {
  if (!('areaM2' in thing)) return [thing.uses === 1 ? 'stands there once' : `stands there ${thing.uses} times`]
  const { areaM2, places, flipMean, deltaE00 } = thing
  const look = flipMean === null ? '' : `; FLIP ${formatNumber(flipMean, 3)}, ΔE00 ${formatNumber(deltaE00 ?? 0, 1)} on the rig`
  return [`${formatNumber(areaM2, 2)} m2${places.length > 0 ? ` on ${places.slice(0, 6).join(', ')}` : ''}${look}`]
}

const sayChange = ({ what, from, to, deltaE00 }: Thing['changes'][number]): string => {
  const say = (v: string | number) => (typeof v === 'number' ? formatNumber(v, 3) : v)
  return `${changeWord(what)}: ${say(from)} in the library, ${say(to)} here${deltaE00 === undefined ? '' : ` (ΔE00 ${formatNumber(deltaE00, 1)})`}`
}

function rule(pdf: Pdf, width: number): void {
  pdf
    .moveTo(MARGIN, pdf.y)
    .lineTo(MARGIN + width, pdf.y)
    .lineWidth(0.4)
    .strokeColor(RULE)
    .stroke()
}

/** Begins a page where what comes would not fit on this one. */
function makeRoom(pdf: Pdf, height: number): void {
  if (pdf.y + height <= pdf.page.height - MARGIN - 12) return
  pdf.addPage()
  pdf.y = MARGIN
}
