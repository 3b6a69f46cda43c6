import type { FixCode } from '#core/fixes/fix'

/** What a button says, and what is said once it was done. */
export const FIX_WORDS: Record<FixCode, { todo: string; done: string }> = {
  convertToSrgb: { todo: 'Convert to sRGB', done: 'converted to sRGB' },
  encodeForDisplay: { todo: 'Encode for display', done: 'encoded for display' },
  matchSizes: { todo: 'Bring to one size', done: 'brought to one size' },
  flipGreen: { todo: 'Flip green', done: 'green flipped' },
  renormalize: { todo: 'Bring to length 1', done: 'normals brought to length 1' },
  invertValues: { todo: 'Gloss to roughness', done: 'gloss turned into roughness' },
  removeBakedLight: { todo: 'Take the light out', done: 'baked light taken out' },
  makeTileable: { todo: 'Make it tile', done: 'made to tile' },
  repairPixels: { todo: 'Repair the pixels', done: 'bad pixels repaired' },
  closeSeam: { todo: 'Close the seam', done: 'seam closed' },
  rescale: { todo: 'Scale to metres', done: 'scaled to metres' },
  dropStrays: { todo: 'Take strays out', done: 'strays taken out' },
  weldAndClean: { todo: 'Weld and clean', done: 'welded and cleaned' },
  turnOutwards: { todo: 'Turn outwards', done: 'turned outwards' },
  reduceToBudget: { todo: 'Reduce to budget', done: 'reduced to budget' },
  nameParts: { todo: 'Name the parts', done: 'parts named' },
  applyGain: { todo: 'Bring to the house exposure', done: 'brought to the house exposure' },
  rollToHeading: { todo: 'Turn to the house heading', done: 'turned to the house heading' },
  makeTiers: { todo: 'Make smaller sizes', done: 'smaller sizes made' },
  unpackMaps: { todo: 'Unpack the maps', done: 'maps unpacked' },
  reduceMaps: { todo: 'Reduce the maps', done: 'maps reduced' },
  reduceTextures: { todo: 'Reduce the textures', done: 'textures reduced' },
  makeLevels: { todo: 'Make levels of detail', done: 'levels of detail and a stand-in made' },
  recentre: { todo: 'Stand it on the origin', done: 'stood on the origin' },
}
