import { DOMParser } from 'linkedom'

/** The part of a document that is used here. */
interface XmlNode {
  nodeName: string
  textContent: string
  childNodes: ArrayLike<XmlNode>
  firstChild: XmlNode | null
  getAttribute: (name: string) => string | null
  setAttribute: (name: string, value: string) => void
  appendChild: (node: XmlNode) => unknown
  insertBefore: (node: XmlNode, before: XmlNode | null) => unknown
  replaceWith: (node: XmlNode) => void
  remove: () => void
  getElementsByTagName: (name: string) => ArrayLike<XmlNode>
}
interface XmlDocument {
  documentElement: XmlNode
  createElement: (name: string) => XmlNode
  getElementsByTagName: (name: string) => ArrayLike<XmlNode>
}

/**
 * A parser of Collada that writes what three's loader does not know in the words that it does: polygons each by itself as one list, strips
 * and fans as triangles, and the head that some programs leave out.
 * Source: Khronos, COLLADA 1.4.1 specification, chapter 5, "Geometry".
 */
export class ColladaDomParser {
  parseFromString(text: string): unknown {
    const document = new DOMParser().parseFromString(text, 'text/xml') as unknown as XmlDocument
    const root = document.documentElement
    if (root && !list(root.childNodes).some(n => n.nodeName === 'asset'))
      root.insertBefore(document.createElement('asset'), root.firstChild)
    for (const name of ['polygons', 'tristrips', 'trifans'])
      for (const element of list(document.getElementsByTagName(name))) rewrite(document, element)
    dropDangling(document)
    return document
  }
}

/** A material that a part names and the file does not hold is none. */
function dropDangling(document: XmlDocument): void {
  const known = new Set(list(document.getElementsByTagName('material')).map(m => `#${m.getAttribute('id')}`))
  for (const bound of list(document.getElementsByTagName('instance_material')))
    if (!known.has(bound.getAttribute('target') ?? '')) bound.remove()
}

const list = <T>(given: ArrayLike<T>): T[] => Array.from(given)

function rewrite(document: XmlDocument, element: XmlNode): void {
  const inputs = list(element.childNodes).filter(n => n.nodeName === 'input')
  const stride = Math.max(0, ...inputs.map(n => Number(n.getAttribute('offset')) + 1))
  const pieces = list(element.getElementsByTagName('p'))
    .map(p => p.textContent.trim().split(/\s+/))
    .map(words => Array.from({ length: Math.floor(words.length / stride) }, (_, i) => words.slice(i * stride, (i + 1) * stride)))
  const isPolygons = element.nodeName === 'polygons'
  const faces = isPolygons ? pieces : pieces.flatMap(corners => toTriangles(corners, element.nodeName === 'tristrips'))
  const made = document.createElement(isPolygons ? 'polylist' : 'triangles')
  made.setAttribute('count', String(faces.length))
  const material = element.getAttribute('material')
  if (material !== null) made.setAttribute('material', material)
  for (const input of inputs) made.appendChild(input)
  const add = (name: string, words: readonly (string | number)[]) => {
    const child = document.createElement(name)
    child.textContent = words.join(' ')
    made.appendChild(child)
  }
  if (isPolygons)
    add(
      'vcount',
      faces.map(f => f.length),
    )
  add('p', faces.flat(2))
  element.replaceWith(made)
}

/** Of a strip every other triangle is turned; of a fan all share the first corner. */
const toTriangles = (corners: string[][], isStrip: boolean): string[][][] =>
  corners.slice(2).map((corner, i) => {
    if (!isStrip) return [corners[0], corners[i + 1], corner]
    return i % 2 === 0 ? [corners[i], corners[i + 1], corner] : [corners[i + 1], corners[i], corner]
  })
