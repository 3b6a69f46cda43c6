import sharp from 'sharp'
import { beginPdf, finishPdf, MARGIN } from './pdf-page'

export interface PicturePagesRequest {
  title: string
  project: string | null
  date: string
  /** Each with the path of its picture, and what is in it. */
  pictures: { path: string; caption: string; note: string }[]
  /** What the pictures show, once for all of them. */
  items: { code: string; name: string; maker: string; licence: string }[]
}

const LONGEST_PX = 2000

/** Pictures to print or send, each on a page, and after them what is in them with makers and licences. */
export async function writePicturePages({ title, project, date, pictures, items }: PicturePagesRequest): Promise<Uint8Array> {
  const pdf = beginPdf(title, 'landscape')
  const width = pdf.page.width - 2 * MARGIN
  const bottom = pdf.page.height - MARGIN - 12
  for (const [k, { path, caption, note }] of pictures.entries()) {
    if (k > 0) pdf.addPage()
    const jpeg = await sharp(path)
      .resize({ width: LONGEST_PX, height: LONGEST_PX, fit: 'inside', withoutEnlargement: true })
      .jpeg({ quality: 92 })
      .toBuffer()
    pdf.font('strong').fontSize(14).fillColor('#141414').text(title, MARGIN, MARGIN)
    pdf
      .font('text')
      .fontSize(9)
      .fillColor('#555555')
      .text(`${caption}${note && `. ${note}`}`)
    const top = pdf.y + 8
    pdf.image(jpeg, MARGIN, top, { fit: [width, bottom - top], align: 'center', valign: 'center' })
  }
  if (items.length > 0) {
    pdf.addPage()
    pdf.font('strong').fontSize(14).fillColor('#141414').text('What is in them', MARGIN, MARGIN)
    const columns = [
      { x: MARGIN, width: 90, of: 'code', font: 'figures' },
      { x: MARGIN + 90, width: 270, of: 'name', font: 'text' },
      { x: MARGIN + 360, width: 180, of: 'maker', font: 'text' },
      { x: MARGIN + 540, width: width - 540, of: 'licence', font: 'text' },
    ] as const
    let y = pdf.y + 10
    for (const item of items) {
      pdf.fontSize(9)
      const height = Math.max(...columns.map(c => pdf.font(c.font).heightOfString(item[c.of] || ' ', { width: c.width - 10 })))
      if (y + height + 8 > bottom) {
        pdf.addPage()
        y = MARGIN
      }
      pdf
        .moveTo(MARGIN, y)
        .lineTo(MARGIN + width, y)
        .lineWidth(0.4)
        .strokeColor('#999999')
        .stroke()
      for (const c of columns) pdf.font(c.font).text(item[c.of], c.x, y + 4, { width: c.width - 10 })
      y += height + 8
    }
  }
  return finishPdf(pdf, [title, project, date].filter(Boolean).join(', '))
}
