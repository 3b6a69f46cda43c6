import { type LightForm, throughLens, toOneSide, upwards } from './light-curve'

const FOLDER = 'Oddmere Lamps/Luminaires'

export interface LuminaireRecipe extends Omit<LightForm, 'name'> {
  folder: string
  stem: string
}

/** Luminaires of which only the light is delivered, as makers give it for what is recessed or built in. */
export const LUMINAIRE_RECIPES: readonly LuminaireRecipe[] = [
  { folder: FOLDER, stem: 'Ferry_Hall_Downlight_60', catalogue: 'OL-D60', curve: throughLens(1450, 60), watts: 16, cctK: 3000 },
  { folder: FOLDER, stem: 'Quayside_Spot_14', catalogue: 'OL-S14', curve: throughLens(11_000, 14), watts: 12, cctK: 3000 },
  {
    folder: FOLDER,
    stem: 'Reading_Room_Wall_Washer',
    catalogue: 'OL-W4',
    curve: toOneSide(980, 42),
    watts: 18,
    cctK: 4000,
    hasSides: true,
  },
  { folder: FOLDER, stem: 'Lantern_Uplight', catalogue: 'OL-U1', curve: upwards(900), watts: 28, cctK: 2700 },
]
