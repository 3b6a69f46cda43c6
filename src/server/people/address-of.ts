import type { Request } from 'express'
import type { Settings } from '../platform/settings'

/** Where a path of the pages is for whoever is outside: as the settings say, else as whoever asks sees them. */
export const addressOf = (req: Request, settings: Pick<Settings, 'publicUrl'>, path: string): string =>
  (settings.publicUrl ?? `${req.protocol}://${req.get('host')}`).replace(/\/+$/, '') + path
