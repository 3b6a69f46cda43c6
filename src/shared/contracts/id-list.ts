import { z } from 'zod'

/** Ids in an address, with commas between. */
export const idListSchema = z
  .string()
  .regex(/^\d{1,9}(,\d{1,9}){0,499}$/, 'Ask for up to 500 by their numbers.')
  .transform(text => text.split(',').map(Number))
