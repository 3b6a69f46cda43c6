import { z } from 'zod'
import { LICENCE_REACHES } from '#core/hand-over/licence'

const termsFields = {
  wording: z.string().trim().min(1).max(200),
  reach: z.enum(LICENCE_REACHES),
  /** Those that it covers, where it does not cover all. */
  projectIds: z.array(z.number().int().positive()).max(1000),
  /** The last day on which it holds; null for ever. */
  until: z.iso.date('A day is written as 2027-03-31.').nullable(),
}

export const setLicenceSchema = z.object(termsFields)
export type SetLicence = z.infer<typeof setLicenceSchema>

export const licenceSchema = z.object({
  ...termsFields,
  items: z.number(),
  /** Whether somebody has said what it covers; it covers everything until then. */
  isSaid: z.boolean(),
})
export type LicenceView = z.infer<typeof licenceSchema>
