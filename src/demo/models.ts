import { BLUE_ENAMEL, RED_ENAMEL } from './finishes'
import { bookcase, bookTrolley, loungeSofa, readingTable, sideTable, slatChair, stool, waitingBench } from './furniture-models'
import { type LightCurve, throughShade } from './light-curve'
import type { ModelRecipe } from './model-file'
import { deskLamp, figure, kettle, pendant, railing } from './object-models'

/** The demo world's furniture and objects. */

const ODD = 'Oddmere Surfaces/Furniture'

const KETTLES = 'Kettle range'

interface DemoModel {
  folder: string
  stem: string
  build: () => ModelRecipe['parts']
  /** How it throws its light, where it is a lamp. */
  light?: { curve: LightCurve; watts: number }
}

export const MODEL_RECIPES: readonly DemoModel[] = [
  { folder: `${ODD}/Seating`, stem: 'Slat_Back_Chair', build: slatChair },
  { folder: `${ODD}/Seating`, stem: 'Counter_Stool', build: stool },
  { folder: `${ODD}/Seating`, stem: 'Waiting_Bench_Three', build: waitingBench },
  { folder: `${ODD}/Seating`, stem: 'Lounge_Sofa_Two', build: loungeSofa },
  { folder: `${ODD}/Tables`, stem: 'Reading_Table_Long', build: readingTable },
  { folder: `${ODD}/Tables`, stem: 'Side_Table_Terrazzo', build: sideTable },
  { folder: `${ODD}/Storage`, stem: 'Bookcase_Birch_Shelving', build: bookcase },
  { folder: `${ODD}/Storage`, stem: 'Book_Trolley', build: bookTrolley },
  {
    folder: `${ODD}/Lighting`,
    stem: 'Pendant_Lamp_Enamel',
    build: pendant,
    light: { curve: throughShade(420, 62, 9), watts: 11 },
  },
  { folder: `${ODD}/Lighting`, stem: 'Desk_Lamp_Brass', build: deskLamp, light: { curve: throughShade(310, 48, 6), watts: 7 } },
  { folder: `${ODD}/Building`, stem: 'Quay_Railing_Wire', build: railing },
  { folder: `${ODD}/Figures`, stem: 'Standing_Figure', build: figure },
  { folder: KETTLES, stem: 'Kettle_Round_Red', build: () => kettle(RED_ENAMEL, false) },
  { folder: KETTLES, stem: 'Kettle_Tall_Blue', build: () => kettle(BLUE_ENAMEL, true) },
]
