import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { findPatternProblem, type Profile } from '#core/hand-over/profile'
import type { NamedProfile } from '#shared/contracts/profiles.contract'
import { summarizeProfile } from '#shared/profile-words'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { TextField } from '../../../components/controls/Field'
import { ProfileFields } from '../../../components/hand-over/ProfileFields'
import { Skeleton, Trouble } from '../../../components/Notice'
import { Page, PageHead } from '../../../components/Page'
import { useGetSessionQuery, useListProfilesQuery, useRemoveProfileMutation, useSaveProfileMutation } from '../../../state/api'
import { plural } from '../../../words/states'

/** How each renderer of the house wants its files, under the house's own name for it. */
export function ProfilesPlace() {
  const { data: profiles, error, refetch } = useListProfilesQuery()
  const { data: session } = useGetSessionQuery()
  const [search, setSearch] = useSearchParams()
  if (error) return <Trouble error={error} onRetry={refetch} />
  const mayEdit = session?.person?.role === 'lead'
  const wanted = search.get('profile')
  const isNew = wanted === 'new' && mayEdit
  const chosen = profiles?.find(p => String(p.id) === wanted) ?? profiles?.[0]
  const show = (id: number | 'new') => setSearch({ profile: String(id) }, { replace: true })
  return (
    <Page>
      <div className="mx-auto max-w-[76rem]">
        <PageHead
          title="Profiles"
          from={{ to: '/standard', text: 'Standard' }}
          facts="How each renderer of the house wants its files"
          actions={
            mayEdit && (
              <Button disabled={isNew} onClick={() => show('new')}>
                A new profile
              </Button>
            )
          }
        />
        {profiles && chosen ? (
          <div className="grid grid-cols-[16rem_minmax(0,1fr)] gap-8">
            <ul aria-label="Profiles" className="flex flex-col gap-1 self-start">
              {profiles.map(p => {
                const isShown = !isNew && p.id === chosen.id
                return (
                  <li key={p.id}>
                    <button
                      type="button"
                      aria-current={isShown || undefined}
                      onClick={() => show(p.id)}
                      className={`w-full rounded-sm px-3 py-2 text-left ${isShown ? 'bg-sheet' : 'hover:bg-sheet'}`}
                    >
                      <span className="block font-medium">{p.name}</span>
                      <span className="block text-xs text-quiet">
                        {p.isHouse
                          ? 'of the house, where nothing else is said'
                          : p.projects === 0
                            ? 'no project hands'
                            : plural(p.projects, 'project hands', 'projects hand')}
                        {p.isHouse ? '' : ' over by it'}
                      </span>
                    </button>
                  </li>
                )
              })}
            </ul>
            {isNew ? (
              <ProfileSheet key="new" saved={null} name="" profile={chosen.profile} mayEdit onShow={show} />
            ) : (
              <ProfileSheet
                key={`${chosen.id} ${JSON.stringify(chosen.profile)}`}
                saved={chosen}
                name={chosen.name}
                profile={chosen.profile}
                mayEdit={mayEdit}
                onShow={show}
              />
            )}
          </div>
        ) : (
          <Skeleton className="h-96" />
        )}
      </div>
    </Page>
  )
}

interface SheetProps {
  /** Null of one that is begun. */
  saved: NamedProfile | null
  name: string
  profile: Profile
  mayEdit: boolean
  onShow: (id: number) => void
}

function ProfileSheet({ saved, mayEdit, onShow, ...given }: SheetProps) {
  const [name, setName] = useState(given.name)
  const [profile, setProfile] = useState(given.profile)
  const [save, { isLoading }] = useSaveProfileMutation()
  const [remove] = useRemoveProfileMutation()
  const isChanged = name !== given.name || JSON.stringify(profile) !== JSON.stringify(given.profile)
  const hasProblem =
    name.trim() === '' ||
    findPatternProblem(profile.folderName, ['code']) !== null ||
    findPatternProblem(profile.textureName, ['code', 'map']) !== null
  const reset = () => {
    setName(given.name)
    setProfile(given.profile)
  }
  const keep = async (isHouse: boolean) => {
    const result = await save({ id: saved?.id ?? null, name, profile, isHouse })
    if (result.error) return tellProblem(result.error)
    onShow(result.data.id)
    toast.success(isHouse ? `${name} holds wherever nothing else is said.` : `${name} is kept.`)
  }
  const takeOut = async () => {
    if (!saved) return
    const result = await remove({ id: saved.id })
    if (result.error) return tellProblem(result.error)
    toast(`${saved.name} is taken out.`, {
      action: {
        label: 'Undo',
        onClick: () => void save({ id: null, name: saved.name, profile: saved.profile, isHouse: false }),
      },
    })
  }
  return (
    <div className="flex flex-col gap-6">
      <form
        className="flex flex-col gap-5 rounded-sm bg-sheet p-4"
        onSubmit={event => {
          event.preventDefault()
          void keep(false)
        }}
      >
        <div className="flex items-end gap-2">
          <div className="mr-auto w-72">
            <TextField
              label="Name"
              value={name}
              disabled={!mayEdit}
              placeholder="The renderer, as we call it"
              onChange={event => setName(event.target.value)}
            />
          </div>
          {mayEdit && saved && !saved.isHouse && (
            <>
              <Button variant="bare" onClick={takeOut}>
                Take it out
              </Button>
              <Button variant="bare" disabled={hasProblem || isLoading} onClick={() => keep(true)}>
                Make it the house’s
              </Button>
            </>
          )}
          {mayEdit && (
            <>
              <Button variant="bare" disabled={!isChanged} onClick={reset}>
                As it was
              </Button>
              <Button type="submit" variant="next" disabled={!isChanged || hasProblem || isLoading}>
                {saved ? 'Keep the change' : 'Keep the profile'}
              </Button>
            </>
          )}
        </div>
        <p className="-mt-2 text-xs text-quiet">{summarizeProfile(profile)}</p>
        <ProfileFields profile={profile} onChange={setProfile} disabled={!mayEdit} />
      </form>
      {saved && <Fidelity profile={saved} isChanged={profile.materials !== given.profile.materials} />}
    </div>
  )
}

/** What the form of materials keeps of what was measured, by category. */
function Fidelity({ profile, isChanged }: { profile: NamedProfile; isChanged: boolean }) {
  return (
    <section aria-label="What it keeps">
      <h2 className="mb-2 text-section">What it keeps of our materials</h2>
      {isChanged && <p className="mb-2 text-xs text-quiet">As kept so far; the change is measured once it is kept.</p>}
      {profile.fidelity.length === 0 ? (
        <p className="text-quiet">No approved material was measured in this form yet; Upkeep measures them all.</p>
      ) : (
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-b border-line text-left text-xs text-quiet [&>th]:py-1 [&>th]:pr-3 [&>th]:font-normal">
              <th>Category</th>
              <th className="text-right">Measured</th>
              <th className="text-right">FLIP, mean</th>
              <th className="!pr-0 text-right">Lose their look</th>
            </tr>
          </thead>
          <tbody>
            {profile.fidelity.map(row => (
              <tr key={row.category} className="border-b border-line [&>td]:py-1 [&>td]:pr-3">
                <td>{row.title}</td>
                <td className="figures text-right">{row.measured}</td>
                <td className="figures text-right">{formatNumber(row.meanFlip, 3)}</td>
                <td className={`figures !pr-0 text-right ${row.losing > 0 ? 'font-semibold' : ''}`}>{row.losing}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
