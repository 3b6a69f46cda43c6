import type { CandelaWeb } from './candela-web'

const VALUES_A_LINE = 10

/**
 * A candela web as IES LM-63-2002, type C, metric, in Windows lines: intensities as they are, with the lumens of the lamps as they were
 * stated, or as absolute photometry. All round, whatever mirrors it was read by.
 * Source: ANSI/IES LM-63-19, which keeps the form of 2002.
 */
export function writeIes(web: CandelaWeb): string {
  const { gammaDeg, cDeg, candela, openingM } = web
  // Planes go round and close, unless there is one.
  const planes = cDeg.length === 1 ? cDeg : [...cDeg, 360]
  const values = planes.flatMap((_, i) => {
    const from = (i % cDeg.length) * gammaDeg.length
    return [...candela.subarray(from, from + gammaDeg.length)]
  })
  const keywords = [
    ['MANUFAC', web.maker],
    ['LUMCAT', web.catalogue],
    ['LUMINAIRE', web.name],
    ['LAMP', web.cctK ? `${web.cctK}K` : ''],
  ]
  return [
    'IESNA:LM-63-2002',
    ...keywords.filter(([, value]) => value).map(([keyword, value]) => `[${keyword}] ${onOneLine(value)}`),
    'TILT=NONE',
    `1 ${format(web.lampLumens ?? -1)} 1 ${gammaDeg.length} ${planes.length} 1 2 ${openingM.map(format).join(' ')}`,
    `1 1 ${format(web.watts ?? 0)}`,
    ...toLines(gammaDeg),
    ...toLines(planes),
    ...toLines(values),
    '',
  ].join('\r\n')
}

const onOneLine = (text: string): string => text.replace(/\s+/g, ' ').trim()
const format = (value: number): string => String(Math.round(value * 1000) / 1000)

const toLines = (values: readonly number[]): string[] =>
  Array.from({ length: Math.ceil(values.length / VALUES_A_LINE) }, (_, i) =>
    values
      .slice(i * VALUES_A_LINE, (i + 1) * VALUES_A_LINE)
      .map(format)
      .join(' '),
  )
