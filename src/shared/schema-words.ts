import { z } from 'zod'

const FORMATS: Readonly<Record<string, string>> = {
  email: 'This is no e-mail address.',
  url: 'This is no address.',
  date: 'This is no date, such as 2026-11-30.',
  datetime: 'This is no date with a time.',
}
const KINDS: Readonly<Record<string, string>> = {
  string: 'Text belongs here.',
  number: 'A number belongs here.',
  int: 'A whole number belongs here.',
  boolean: 'Yes or no belongs here.',
  array: 'A list belongs here.',
}
const MISFIT = 'This is not as it should be.'

type Issue = Parameters<z.core.$ZodErrorMap>[0]

/** What is said of a value that does not fit a schema, where the schema has no sentence of its own. */
function sayMisfit(issue: Issue): string {
  switch (issue.code) {
    case 'too_big':
      return sayTooBig(issue.origin, issue.maximum, issue.inclusive ?? true)
    case 'too_small':
      return sayTooSmall(issue.origin, issue.minimum, issue.inclusive ?? true)
    case 'invalid_type':
      return issue.input === undefined ? 'This is missing.' : (KINDS[issue.expected] ?? MISFIT)
    case 'invalid_value':
      return issue.values.length === 1 ? MISFIT : `One of these belongs here: ${issue.values.join(', ')}.`
    case 'invalid_format':
      return FORMATS[issue.format] ?? 'This is not written as it has to be.'
    case 'unrecognized_keys':
      return `There is no ${issue.keys.join(', ')} here.`
    default:
      return MISFIT
  }
}

function sayTooBig(origin: string, most: number | bigint, isIncluded: boolean): string {
  if (origin === 'array' || origin === 'set') return `At most ${most} at once: do it in parts.`
  if (origin === 'string') return `At most ${most} characters.`
  return isIncluded ? `At most ${most}.` : `Less than ${most}.`
}

function sayTooSmall(origin: string, least: number | bigint, isIncluded: boolean): string {
  if (origin === 'array' || origin === 'set')
    return Number(least) === 1 ? 'At least one is needed.' : `At least ${least} are needed.`
  if (origin === 'string') return Number(least) === 1 ? 'This may not be empty.' : `At least ${least} characters.`
  return isIncluded ? `At least ${least}.` : `More than ${least}.`
}

const isOurs = (issue: z.core.$ZodIssue): boolean =>
  issue.message === sayMisfit(issue as Issue) ||
  (issue.code === 'invalid_type' && issue.message === (KINDS[issue.expected] ?? MISFIT))

/** What is said of a misfit where nothing shows the field: with its name, unless its schema has a sentence of its own. */
export function sayWithField(issue: z.core.$ZodIssue): string {
  const field = issue.path.findLast(step => typeof step === 'string')
  if (field === undefined || !isOurs(issue)) return issue.message
  const words = field.replace(/(?<=[a-z])[A-Z]/g, letter => ` ${letter.toLowerCase()}`)
  return `${words[0].toUpperCase()}${words.slice(1)}: ${issue.message[0].toLowerCase()}${issue.message.slice(1)}`
}

/** From now on schemas of this process say in our words what does not fit them. */
export const speakOurWords = (): void => {
  z.config({ localeError: sayMisfit })
}
