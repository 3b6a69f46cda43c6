import { useSearchParams } from 'react-router'
import { OUTSIDE_REFUSALS, type Session, type SignIn, signInSchema } from '#shared/contracts/session.contract'
import { Button } from '../../components/controls/Button'
import { TextField } from '../../components/controls/Field'
import { useZodForm } from '../../components/controls/use-zod-form'
import { api, toProblem, useSignInMutation } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'
import { REFUSAL_WORDS } from '../../words/people'
import { Card } from './Card'

export function SignInPlace({ studio, outsideSignIn, demoPeople }: Pick<Session, 'studio' | 'outsideSignIn' | 'demoPeople'>) {
  const dispatch = useAppDispatch()
  const [params] = useSearchParams()
  const [signIn, { isLoading, error }] = useSignInMutation()
  const { register, handleSubmit, formState } = useZodForm(signInSchema, { email: '', password: '' })
  const refusal = OUTSIDE_REFUSALS.find(r => r === params.get('refused'))
  const enter = async (given: SignIn) => {
    const result = await signIn(given)
    if ('data' in result && result.data) dispatch(api.util.upsertQueryData('getSession', undefined, result.data))
  }
  return (
    <Card subtitle={`The samples room of ${studio ?? 'your studio'}.`}>
      {demoPeople.length > 0 && (
        <section className="mb-6">
          <h2 className="mb-2 text-xs text-quiet">Look around Pale Harbour, a made-up studio, as</h2>
          <ul className="flex flex-col gap-1.5">
            {demoPeople.map(p => (
              <li key={p.email}>
                <button
                  type="button"
                  disabled={isLoading}
                  onClick={() => enter({ email: p.email, password: p.password })}
                  className="flex w-full flex-col rounded-sm border border-line bg-mount px-3 py-2 text-left hover:border-ink"
                >
                  <span className="font-medium">{p.name}</span>
                  <span className="text-xs text-quiet">{p.describes}</span>
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {refusal && (
        <p role="alert" className="mb-4 font-medium">
          {REFUSAL_WORDS[refusal]}
        </p>
      )}
      {outsideSignIn && (
        // The browser leaves the page for the service.
        <a
          href="/api/sign-in/outside"
          className="mb-6 flex h-9 items-center justify-center rounded-sm border border-edge bg-mount px-3 font-medium hover:border-ink"
        >
          Sign in with {outsideSignIn}
        </a>
      )}
      <form onSubmit={handleSubmit(enter)} className="flex flex-col gap-3" noValidate>
        <TextField
          label="E-mail address"
          type="email"
          autoComplete="username"
          error={formState.errors.email?.message}
          {...register('email')}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          error={formState.errors.password?.message}
          {...register('password')}
        />
        {error && (
          <p role="alert" className="text-sm font-medium">
            {toProblem(error).message}
          </p>
        )}
        <Button type="submit" variant="next" disabled={isLoading} className="mt-1 justify-center">
          Sign in
        </Button>
      </form>
    </Card>
  )
}
