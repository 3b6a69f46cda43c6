import { eq } from 'drizzle-orm'
import type { Request } from 'express'
import nodemailer from 'nodemailer'
import type { HandedLink } from '#shared/contracts/people.contract'
import type { Connection } from '../platform/database'
import type { Settings } from '../platform/settings'
import { people, studio } from '../tables/people.table'
import { addressOf } from './address-of'

const PATIENCE_MS = 10_000

/**
 * Sends a link by mail where the settings name a mail server. The link is shown all the same: whoever asked for it can hand it over when the
 * mail does not arrive.
 */
export async function mailLink(
  db: Connection,
  settings: Settings,
  req: Request,
  { personId, path, isNew }: { personId: number; path: string; isNew: boolean },
): Promise<HandedLink> {
  if (!settings.smtpUrl) return { path, mail: 'none' }
  const [person] = await db.select({ name: people.name, email: people.email }).from(people).where(eq(people.id, personId))
  const [{ name: studioName } = { name: 'the studio' }] = await db.select({ name: studio.name }).from(studio)
  const transport = nodemailer.createTransport({
    url: settings.smtpUrl,
    connectionTimeout: PATIENCE_MS,
    greetingTimeout: PATIENCE_MS,
    socketTimeout: PATIENCE_MS,
  })
  try {
    await transport.sendMail({
      from: settings.smtpFrom,
      to: { name: person.name, address: person.email },
      subject: isNew ? `Come into the samples room of ${studioName}` : `A new password for the samples room of ${studioName}`,
      text: [
        `Hello ${person.name},`,
        '',
        isNew
          ? `you are invited to the samples room of ${studioName}. Choose a password with this link and come in:`
          : 'with this link you choose a new password:',
        '',
        addressOf(req, settings, path),
        '',
        'It works once, for a week. If you did not expect it, leave it.',
        '',
      ].join('\n'),
    })
    return { path, mail: 'sent' }
  } catch {
    return { path, mail: 'failed' }
  } finally {
    transport.close()
  }
}
