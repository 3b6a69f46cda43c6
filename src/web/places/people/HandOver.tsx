import { Copy, X } from 'lucide-react'
import { useId } from 'react'
import { toast } from 'sonner'
import type { HandedLink } from '#shared/contracts/people.contract'
import { Button } from '../../components/controls/Button'
import { CONTROL } from '../../components/controls/control-look'

export interface Handed {
  name: string
  path: string
  isNew: boolean
  mail: HandedLink['mail']
}

/** A link that lets somebody in, to be handed to them: it is shown this once. */
export function HandOver({ handed: { name, path, isNew, mail }, onDone }: { handed: Handed; onDone: () => void }) {
  const id = useId()
  const address = location.origin + path
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(address)
      toast('The link is copied.')
    } catch {
      toast.warning('The browser does not let pages copy; mark the link and copy it.')
    }
  }
  return (
    <section aria-label="Link to hand over" className="mb-4 flex items-end gap-3 rounded-sm bg-sheet p-4">
      <div className="min-w-0 flex-1">
        <label htmlFor={id} className="mb-1 block">
          Hand this link to <strong className="font-semibold">{name}</strong>: {MAIL_WORDS[mail]}
          {isNew ? 'with it they choose a password and come in.' : 'with it they choose a new password.'} It works once, for a
          week, and is not shown again.
        </label>
        <input
          id={id}
          readOnly
          value={address}
          onFocus={event => event.target.select()}
          className={`${CONTROL} figures w-full text-xs`}
        />
      </div>
      <Button variant="next" onClick={copy}>
        <Copy aria-hidden className="size-3.5" />
        Copy
      </Button>
      <Button variant="bare" onClick={onDone} aria-label="Done with the link">
        <X aria-hidden className="size-4" />
      </Button>
    </section>
  )
}

const MAIL_WORDS: Record<HandedLink['mail'], string> = {
  sent: 'it went to them by mail; should that not arrive, ',
  failed: 'the mail server did not take it. ',
  none: '',
}
