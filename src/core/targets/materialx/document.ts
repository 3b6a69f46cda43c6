import { XMLParser, XMLValidator } from 'fast-xml-parser'
import { FileError } from '../../findings/failure'

/** An input of a node, or an output or interface of a graph: a value, or where its value comes from. */
export interface MtlxInput {
  name: string
  type: string
  value: string | null
  /** Node or graph that it is connected to, and which of its outputs. */
  node: string | null
  graph: string | null
  output: string | null
  interfaceName: string | null
  colorSpace: string | null
  unit: string | null
}

export interface MtlxNode {
  name: string
  category: string
  type: string
  /** Name of the graph that it stands in; empty at the top. */
  scope: string
  inputs: ReadonlyMap<string, MtlxInput>
}

interface MtlxGraph {
  outputs: ReadonlyMap<string, MtlxInput>
  interfaces: ReadonlyMap<string, MtlxInput>
}

/** A value that stands in the file, or the node that makes it. */
export type MtlxSource =
  | { kind: 'value'; text: string; type: string; colorSpace: string | null; unit: string | null }
  | { kind: 'node'; node: MtlxNode; output: string | null }

/** More nodes than any material has. */
const MOST_NODES = 4000
/** Graphs within graphs, and interfaces that lead to interfaces. */
const MOST_STEPS = 32

type XmlNode = Record<string, unknown>
const isXmlNode = (value: unknown): value is XmlNode => typeof value === 'object' && value !== null && !Array.isArray(value)
const textOf = (node: XmlNode, name: string): string | null => (typeof node[name] === 'string' ? node[name] : null)

/**
 * A MaterialX document as its nodes by name and graph, whatever version from 1.36 on it is written in.
 * Source: Academy Software Foundation, "MaterialX Specification v1.39".
 */
export class MtlxDocument {
  private readonly nodes = new Map<string, MtlxNode>()
  private readonly graphs = new Map<string, MtlxGraph>()
  readonly colorSpace: string | null
  private readonly filePrefix: string

  /** @throws FileError when the text is not well-formed, declares entities, or is no MaterialX */
  constructor(text: string) {
    const root = parseRoot(text)
    this.colorSpace = textOf(root, 'colorspace')
    this.filePrefix = textOf(root, 'fileprefix') ?? ''
    this.takeNodes(root, '', this.filePrefix, this.colorSpace)
  }

  *allNodes(): Iterable<MtlxNode> {
    yield* this.nodes.values()
  }

  find(scope: string, name: string): MtlxNode | null {
    return this.nodes.get(`${scope}/${name}`) ?? null
  }

  /** What an input of a node comes to; null where it is connected to what is not there, or not given at all. */
  resolve(scope: string, input: MtlxInput | undefined): MtlxSource | null {
    let at = input
    let within = scope
    for (let step = 0; at && step < MOST_STEPS; step++) {
      if (at.interfaceName !== null) {
        at = this.graphs.get(within)?.interfaces.get(at.interfaceName)
        // What fills an interface stands outside of the graph.
        if (at && at.value === null) within = ''
      } else if (at.graph !== null) {
        const graph = this.graphs.get(at.graph)
        within = at.graph
        at = at.output === null ? graph?.outputs.values().next().value : graph?.outputs.get(at.output)
      } else if (at.node !== null) {
        const node = this.find(within, at.node)
        return node && { kind: 'node', node, output: at.output }
      } else {
        const { value, type, colorSpace, unit } = at
        return value === null ? null : { kind: 'value', text: value, type, colorSpace, unit }
      }
    }
    return null
  }

  private takeNodes(parent: XmlNode, scope: string, filePrefix: string, colorSpace: string | null): void {
    for (const [category, value] of Object.entries(parent)) {
      if (category === 'input' || category === 'output') continue
      for (const child of (Array.isArray(value) ? value : [value]).filter(isXmlNode)) {
        const name = textOf(child, 'name')
        if (name === null) continue
        if (this.nodes.size >= MOST_NODES) throw new FileError('tooLarge', 'The MaterialX file holds more nodes than are read.')
        const ownPrefix = textOf(child, 'fileprefix') ?? filePrefix
        const ownSpace = textOf(child, 'colorspace') ?? colorSpace
        const inputs = inputsOf(child, ['input', 'parameter'], ownPrefix, ownSpace)
        if (category === 'nodegraph' && scope === '') {
          this.graphs.set(name, { outputs: inputsOf(child, ['output'], ownPrefix, ownSpace), interfaces: inputs })
          this.takeNodes(child, name, ownPrefix, ownSpace)
        } else if (category !== 'nodegraph' && category !== 'nodedef')
          this.nodes.set(`${scope}/${name}`, { name, category, scope, type: textOf(child, 'type') ?? '', inputs })
      }
    }
  }
}

function parseRoot(text: string): XmlNode {
  if (/<!(DOCTYPE|ENTITY)/i.test(text)) throw new FileError('unsupported', 'A MaterialX file may not declare entities.')
  const malformed = () => new FileError('malformed', 'The MaterialX file is not well-formed XML.')
  if (XMLValidator.validate(text) !== true) throw malformed()
  const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', processEntities: true, htmlEntities: true })
  let root: unknown
  try {
    root = (parser.parse(text) as XmlNode).materialx
  } catch {
    // Some damage passes the validator and not the parser.
    throw malformed()
  }
  if (!isXmlNode(root)) throw new FileError('unsupported', 'The file is no MaterialX document.')
  return root
}

function inputsOf(
  node: XmlNode,
  tags: readonly string[],
  filePrefix: string,
  colorSpace: string | null,
): ReadonlyMap<string, MtlxInput> {
  const inputs = new Map<string, MtlxInput>()
  for (const child of tags.flatMap(tag => node[tag] ?? []).filter(isXmlNode)) {
    const name = textOf(child, 'name')
    if (name === null) continue
    const type = textOf(child, 'type') ?? ''
    const value = textOf(child, 'value')
    inputs.set(name, {
      name,
      type,
      value: value !== null && type === 'filename' ? filePrefix + value : value,
      node: textOf(child, 'nodename'),
      graph: textOf(child, 'nodegraph'),
      output: textOf(child, 'output'),
      interfaceName: textOf(child, 'interfacename'),
      colorSpace: textOf(child, 'colorspace') ?? colorSpace,
      unit: textOf(child, 'unit'),
    })
  }
  return inputs
}

/** Numbers of a value such as "0.5, 0.2, 1" or "true"; null where one is none. */
export function parseNumbers(text: string): number[] | null {
  if (text === 'true') return [1]
  if (text === 'false') return [0]
  const numbers = text.split(',').map(part => Number(part.trim() || Number.NaN))
  return numbers.every(Number.isFinite) ? numbers : null
}
