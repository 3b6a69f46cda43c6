import { useParams } from 'react-router'
import { toast } from 'sonner'
import type { RigView } from '#shared/contracts/rigs.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useListRigsQuery, useRerenderOlderMutation } from '../../state/api'
import { plural } from '../../words/states'
import { RerenderList } from './RerenderList'
import { RigForm } from './RigForm'
import { Trial } from './Trial'

/** One rig: its recipe, and a change to it on trial. */
export function RigPlace() {
  const { name } = useParams()
  const { data: list, error, refetch } = useListRigsQuery()
  if (error) return <Trouble error={error} onRetry={refetch} />
  const view = list?.rigs.find(r => r.rig.name === name)
  if (list && !view) return <EmptyState title="There is no such rig." />
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        {list && view ? (
          <>
            <Heading view={view} mayEdit={list.mayEdit} />
            <div className="mt-5 grid grid-cols-[19rem_minmax(0,1fr)] gap-10">
              <RigForm key={view.rig.revision} view={view} mayEdit={list.mayEdit} />
              <div className="sticky top-0 flex flex-col gap-8 self-start">
                {view.proposal ? (
                  <section className="bg-sheet p-4">
                    <Trial
                      proposal={view.proposal}
                      mayEdit={list.mayEdit}
                      title={`Revision ${view.proposal.rig.revision} on trial`}
                    />
                  </section>
                ) : (
                  <section>
                    <div className="max-w-2xl">
                      {view.sample ? (
                        <PreviewFrame url={view.sample} alt={`A picture made on ${view.rig.title}`} />
                      ) : (
                        <p className="flex aspect-[4/3] items-center justify-center bg-mount text-quiet">
                          No picture was made on this revision yet.
                        </p>
                      )}
                    </div>
                    {list.mayEdit && (
                      <p className="mt-2 max-w-lg text-xs text-quiet">
                        Change something on the left and try it: three items are shown before and after, and nothing changes for
                        anybody until you adopt it.
                      </p>
                    )}
                  </section>
                )}
                {list.rerenders.length > 0 && <RerenderList list={list} />}
              </div>
            </div>
          </>
        ) : (
          <Skeleton className="mt-4 h-96" />
        )}
      </div>
    </Page>
  )
}

function Heading({ view, mayEdit }: { view: RigView; mayEdit: boolean }) {
  const [rerender, { isLoading }] = useRerenderOlderMutation()
  const onRerender = async () => {
    const result = await rerender({ name: view.rig.name })
    if (result.error) tellProblem(result.error)
    else if (result.data?.rerenderId) toast('Older pictures are rendered anew in the background.')
  }
  return (
    <>
      <PageHead
        className="pb-1"
        from={{ to: '/standard', text: 'Standard' }}
        title={view.rig.title}
        actions={
          mayEdit &&
          view.older > 0 && (
            <Button onClick={onRerender} disabled={isLoading}>
              Render the older ones anew
            </Button>
          )
        }
      />
      <p className="text-quiet">
        {view.isShipped ? 'As shipped' : 'Ours'}, revision {view.rig.revision}.{' '}
        {view.categories.length > 0 ? view.categories.map(c => c.title).join(', ') : 'No category uses it'}.{' '}
        {plural(view.items, 'item')}
        {view.older > 0 && `, ${view.older} with an older picture`}.
      </p>
    </>
  )
}
