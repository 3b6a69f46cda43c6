import type { Rig, Stage } from '#core/render/rig'

export const STAGE_WORDS: Record<Stage, string> = {
  materialSheet: 'Bent sheet with a cup',
  cloth: 'Cloth over a stand',
  vessel: 'Vessel of it, with water',
  content: 'Clear vessel filled with it',
  closeUp: 'Close-up, 160 mm wide',
  wall: 'Wall, 3 x 3 m',
  subject: 'The whole model',
  leaf: 'One leaf of it',
  panorama: 'Panorama with three balls',
}

export const FRAMING_WORDS: Record<Rig['camera']['framing'], string> = {
  shorterSide: "the frame's shorter side",
  fill: 'the side it reaches first',
}
