import { type Session, type SignIn, signInSchema } from '#shared/contracts/session.contract'
import { Button } from '../../components/Button'
import { TextField } from '../../components/Field'
import { useZodForm } from '../../components/use-zod-form'
import { api, toProblem, useSignInMutation } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'

export function SignInPlace({ demoPeople }: { demoPeople: Session['demoPeople'] }) {
  const dispatch = useAppDispatch()
  const [signIn, { isLoading, error }] = useSignInMutation()
  const { register, handleSubmit, formState } = useZodForm(signInSchema, { email: '', password: '' })
  const enter = async (given: SignIn) => {
    const result = await signIn(given)
    if ('data' in result && result.data) dispatch(api.util.upsertQueryData('getSession', undefined, result.data))
  }
  return (
    <main className="flex min-h-full items-center justify-center p-8">
      <div className="w-full max-w-md rounded-sm bg-sheet p-8 shadow-sm">
        <h1 className="mb-1 flex items-center gap-2.5 text-2xl font-semibold tracking-tight">
          <img src="/icon.svg" alt="" className="size-7" />
          Muscovite
        </h1>
        <p className="mb-6 text-quiet">The samples room of your studio.</p>
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
      </div>
    </main>
  )
}
