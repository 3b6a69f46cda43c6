import type { ItemKind } from '#core/standard/categories'
import type { ItemState } from '#shared/contracts/chip.contract'

export const STATE_WORDS: Record<ItemState, string> = {
  draft: 'draft',
  inReview: 'in review',
  approved: 'approved',
  withdrawn: 'withdrawn',
}

export const KIND_WORDS: Record<ItemKind, { one: string; many: string }> = {
  material: { one: 'material', many: 'materials' },
  model: { one: 'model', many: 'models' },
  environment: { one: 'environment', many: 'environments' },
  map: { one: 'map', many: 'maps' },
  light: { one: 'light', many: 'lights' },
}

export const SEVERITY_WORDS = { mustFix: 'must fix', shouldFix: 'should fix', note: 'note' } as const

const ROLE_WORDS: Record<string, string> = {
  baseColor: 'base colour',
  ambientOcclusion: 'occlusion',
  orm: 'occlusion, roughness, metalness',
  definition: 'definition',
  alternate: 'other size',
  map: 'map',
  picture: 'picture that came along',
  lod: 'level of detail',
  standIn: 'stand-in',
  modelPart: 'part of the model',
  original: 'as delivered',
  photometry: 'light curve',
  document: 'document',
}
/** What files hold, and maps as they are handed over. */
export const roleWord = (role: string): string => ROLE_WORDS[role] ?? role

const VERB_WORDS: Record<string, string> = {
  described: 'gave it facts',
  accepted: 'accepted it',
  state: 'changed its state',
  edited: 'edited it',
  resized: 'gave it a new size',
  tuned: 'tuned its parameters',
  madeFrom: 'made it of a map',
  fixed: 'fixed it',
  notFixed: 'tried to fix it; the files did not allow it',
  revised: 'accepted a new version from a delivery',
  takenBack: 'took the acceptance back',
  pictured: 'gave it a picture of its own',
  unpictured: "put the rig's picture back",
  created: 'began it',
  began: 'began it',
  added: 'added it',
  removed: 'took it away',
  changed: 'changed it',
  updated: 'took newer versions',
  pinned: 'pinned items',
  unpinned: 'took items out',
  exportOrdered: 'ordered an export',
  regrouped: 'sorted files by hand',
  regroupUndone: 'took the sorting back',
  ruled: 'changed the rules',
  worded: 'changed the vocabulary',
  treeChanged: 'changed the house tree',
  treeChangeUndone: 'took a change of the tree back',
  founded: 'founded the studio',
  invited: 'invited them',
  joined: 'came in',
  linked: 'made a link for them',
  'signed out': 'signed them out',
  'made a token': 'made a token',
  moved: 'moved it into this library',
  copied: 'made it as a copy',
  received: 'received an item',
  'gave away': 'gave an item away',
  shown: 'changed whom it is shown to',
  joinedTeam: 'took somebody into the team',
  leftTeam: 'took somebody out of the team',
}
export const verbWord = (verb: string): string => VERB_WORDS[verb] ?? verb

export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en-GB').replaceAll(',', '\u202f')} ${count === 1 ? one : many}`
