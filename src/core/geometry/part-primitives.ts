import type { Document, Node, Primitive } from '@gltf-transform/core'

/** Every primitive of a document as often as it is placed, under the name that its part has where a model is read. */
export const listPartPrimitives = (document: Document): { name: string; node: Node; primitive: Primitive }[] =>
  document
    .getRoot()
    .listNodes()
    .flatMap(node =>
      (node.getMesh()?.listPrimitives() ?? []).map((primitive, i, all) => ({
        name: partName(node, primitive, i, all.length > 1),
        node,
        primitive,
      })),
    )

/** A node of one primitive gives the name; of several, each is called by its material or its number besides. */
export function partName(node: Node, primitive: Primitive, index: number, isOneOfMany: boolean): string {
  const name = node.getName() || node.getMesh()!.getName()
  return isOneOfMany ? `${name || 'part'} ${primitive.getMaterial()?.getName() || index + 1}` : name
}
