import { useController, useWatch } from 'react-hook-form'
import { invitePersonSchema, type ManagedLibrary } from '#shared/contracts/people.contract'
import { Button } from '../../components/controls/Button'
import { ManyChoice } from '../../components/controls/Choice'
import { Labelled, TextField } from '../../components/controls/Field'
import { FormChoice } from '../../components/controls/FormFields'
import { useZodForm } from '../../components/controls/use-zod-form'
import { toProblem, useInvitePersonMutation } from '../../state/api'
import { ROLE_WORDS } from '../../words/people'
import type { Handed } from './HandOver'

interface Props {
  clients: readonly ManagedLibrary[]
  onInvited: (handed: Handed) => void
  onLeave: () => void
}

export function InviteForm({ clients, onInvited, onLeave }: Props) {
  const [invite, { isLoading, error }] = useInvitePersonMutation()
  const { control, register, handleSubmit, formState } = useZodForm(invitePersonSchema, {
    name: '',
    email: '',
    role: 'artist',
    libraryIds: [],
  })
  const { field: teams } = useController({ control, name: 'libraryIds' })
  const role = useWatch({ control, name: 'role' })
  const submit = handleSubmit(async given => {
    const { data } = await invite(given)
    if (data) onInvited({ name: given.name, path: data.path, isNew: true, mail: data.mail })
  })
  return (
    <form onSubmit={submit} noValidate aria-label="Invite somebody" className="mb-4 rounded-sm bg-sheet p-4">
      <div className="grid grid-cols-[repeat(4,minmax(0,1fr))_auto_auto] items-start gap-3">
        <TextField label="Name" error={formState.errors.name?.message} {...register('name')} />
        <TextField label="E-mail address" type="email" error={formState.errors.email?.message} {...register('email')} />
        <FormChoice
          label="Works as"
          control={control}
          name="role"
          options={[
            { value: 'artist', text: ROLE_WORDS.artist },
            { value: 'lead', text: ROLE_WORDS.lead },
            { value: 'guest', text: ROLE_WORDS.guest },
          ]}
        />
        {role === 'guest' ? (
          <p className="mt-6 text-xs text-quiet">Sees the projects that are shown to them; say which on each project's page.</p>
        ) : (
          <Labelled label="Teams of client libraries">
            <ManyChoice
              label="Teams of client libraries"
              none="the house library only"
              className="w-full"
              values={(teams.value ?? []).map(String)}
              onChange={ids => teams.onChange(ids.map(Number))}
              options={clients.map(l => ({ value: String(l.id), text: l.title }))}
            />
          </Labelled>
        )}
        <Button type="submit" variant="next" className="mt-5" disabled={isLoading}>
          Make the link
        </Button>
        <Button variant="bare" className="mt-5" onClick={onLeave}>
          Leave it
        </Button>
      </div>
      {error && (
        <p role="alert" className="mt-3 font-medium">
          {toProblem(error).message}
        </p>
      )}
    </form>
  )
}
