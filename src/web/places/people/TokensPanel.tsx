import { formatDistanceToNowStrict } from 'date-fns'
import { useState } from 'react'
import { toast } from 'sonner'
import { newTokenSchema, TOKEN_SCOPES } from '#shared/contracts/people.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { optionsOf } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { TextField } from '../../components/controls/Field'
import { FormChoice } from '../../components/controls/FormFields'
import { useZodForm } from '../../components/controls/use-zod-form'
import { Panel } from '../../components/Page'
import { useListTokensQuery, useMakeTokenMutation, useRevokeTokenMutation } from '../../state/api'
import { SCOPE_WORDS } from '../../words/people'

/** One's own tokens: what the command line and pipelines sign themselves in with. */
export function TokensPanel() {
  const { data: tokens = [] } = useListTokensQuery()
  const [make, { isLoading }] = useMakeTokenMutation()
  const [revoke] = useRevokeTokenMutation()
  const [shown, setShown] = useState<string | null>(null)
  const { control, register, handleSubmit, formState, reset } = useZodForm(newTokenSchema, { title: '', scope: 'bring' })
  const submit = handleSubmit(async given => {
    const result = await make(given)
    if (result.error) return tellProblem(result.error)
    setShown(result.data?.token ?? null)
    reset()
  })
  const end = async (id: number, title: string) => {
    const result = await revoke({ id })
    if (result.error) tellProblem(result.error)
    else toast(`${title} works no more.`)
  }
  return (
    <Panel title="Tokens of mine" label="Tokens of mine">
      <p className="mb-3 text-xs text-quiet">
        For the command line and pipelines, in MUSCOVITE_TOKEN, in the place of a password.
      </p>
      {shown && (
        <div className="mb-3">
          <label htmlFor="new-token" className="mb-1 block text-xs">
            Copy it now; it is not shown again.
          </label>
          <input
            id="new-token"
            readOnly
            value={shown}
            onFocus={event => event.target.select()}
            className={`${CONTROL} figures w-full text-2xs`}
          />
        </div>
      )}
      {tokens.length > 0 && (
        <ul className="mb-3 border-t border-line">
          {tokens.map(t => (
            <li key={t.id} className="flex items-center gap-2 border-b border-line py-1.5">
              <span className="min-w-0 flex-1">
                <span className="block truncate font-medium">{t.title}</span>
                <span className="block text-xs text-quiet">
                  {SCOPE_WORDS[t.scope]},{' '}
                  {t.lastUsedAt
                    ? `used ${formatDistanceToNowStrict(new Date(t.lastUsedAt), { addSuffix: true })}`
                    : 'not used yet'}
                </span>
              </span>
              <Button variant="bare" onClick={() => end(t.id, t.title)}>
                Revoke
              </Button>
            </li>
          ))}
        </ul>
      )}
      <form onSubmit={submit} noValidate className="flex flex-col gap-2">
        <TextField
          label="A token for"
          placeholder="the render farm"
          error={formState.errors.title?.message}
          {...register('title')}
        />
        <FormChoice label="What it may do" control={control} name="scope" options={optionsOf(TOKEN_SCOPES, SCOPE_WORDS)} />
        <Button type="submit" disabled={isLoading} className="justify-center">
          Make it
        </Button>
      </form>
    </Panel>
  )
}
