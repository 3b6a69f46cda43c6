import { Fragment, useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { STAGE_KIND } from '#core/render/rigs/rig'
import type { Category } from '#shared/contracts/items.contract'
import type { RigList } from '#shared/contracts/rigs.contract'
import { formatNumber } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Choice } from '../../components/controls/Choice'
import { Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useListCategoriesQuery, useListRigsQuery, useListRulesQuery, useProposeCategoryRigMutation } from '../../state/api'
import { plural } from '../../words/states'
import { CategoryRulesPanel } from './CategoryRulesPanel'
import { RerenderList } from './RerenderList'
import { Trial } from './Trial'

const range = (size?: [number, number] | null) => (size ? `${formatNumber(size[0])} – ${formatNumber(size[1])} m` : '')

const PARTS = [
  { to: '/standard/words', text: 'Vocabulary of the search' },
  { to: '/standard/profiles', text: 'Profiles of hand-overs' },
  { to: '/standard/licences', text: 'Licences' },
]

/** The house rules as they stand: the tree, codes, rigs and budgets. Leads change rigs here, after seeing what that does. */
export function StandardPlace() {
  const { data: categories, error, refetch } = useListCategoriesQuery()
  const { data: list } = useListRigsQuery()
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          title="Standard"
          facts="The house tree, its rules, and one look for every preview"
          actions={
            <nav aria-label="More of the standard" className="flex gap-4">
              {PARTS.map(({ to, text }) => (
                <Link key={to} to={to} className="underline hover:text-ink">
                  {text}
                </Link>
              ))}
            </nav>
          }
        />
      </div>
      <div className="mx-auto grid max-w-[100rem] grid-cols-[minmax(0,1fr)_19rem] gap-8">
        <div className="flex flex-col gap-6">
          {list?.proposals.map(proposal => (
            <section key={proposal.id} className="bg-sheet p-4">
              <Trial
                proposal={proposal}
                mayEdit={list.mayEdit}
                title={`${titleOf(categories, proposal.category)}: ${proposal.rig.title} in place of ${rigTitleOf(list, categories, proposal.category)}`}
              />
            </section>
          ))}
          <section>
            <h2 className="mb-2 text-section">The house tree</h2>
            {categories && list ? <HouseTree categories={categories} list={list} /> : <Skeleton className="h-96" />}
          </section>
        </div>
        <div className="flex flex-col gap-6">
          {list && list.rerenders.length > 0 && <RerenderList list={list} />}
          <section>
            <h2 className="mb-2 text-section">Preview rigs</h2>
            {list ? <RigIndex list={list} /> : <Skeleton className="h-96" />}
          </section>
        </div>
      </div>
    </Page>
  )
}

const titleOf = (categories: Category[] | undefined, path: string | null) =>
  categories?.find(c => c.path === path)?.title ?? path ?? ''

const rigTitleOf = (list: RigList, categories: Category[] | undefined, path: string | null) => {
  const name = categories?.find(c => c.path === path)?.rig
  return list.rigs.find(r => r.rig.name === name)?.rig.title ?? name ?? ''
}

function HouseTree({ categories, list }: { categories: Category[]; list: RigList }) {
  const { data: rules } = useListRulesQuery()
  const [opened, setOpened] = useState<string | null>(null)
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="border-b border-line text-left text-xs text-quiet [&>th]:py-1.5 [&>th]:pr-3 [&>th]:font-normal">
          <th>Category</th>
          <th>Codes</th>
          <th>Rig</th>
          <th>Expected size</th>
          <th className="text-right">Triangle budget</th>
          <th className="text-right">Items</th>
          <th className="!pr-0">
            <span className="sr-only">Rules</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {categories.map(c => {
          const here = rules?.find(r => r.path === c.path)
          const depth = c.path.split('.').length - 1
          const isOpen = opened === c.path
          return (
            <Fragment key={c.path}>
              <tr className="border-b border-line/60 [&>td]:py-1 [&>td]:pr-3">
                <td className={depth === 0 ? 'font-medium' : ''} style={{ paddingLeft: `${depth * 1.25}rem` }}>
                  {c.title}
                </td>
                <td className="figures text-xs">{c.prefix}-0001…</td>
                <td>
                  <RigOfCategory category={c} list={list} />
                </td>
                <td className="figures text-xs">{range(here?.resolved.expectedSizeM)}</td>
                <td className="figures text-right text-xs">
                  {here?.resolved.triangleBudget ? formatNumber(here.resolved.triangleBudget, 0) : ''}
                </td>
                <td className="figures text-right text-xs">{c.count}</td>
                <td className="!pr-0 text-right">
                  <button
                    type="button"
                    aria-expanded={isOpen}
                    aria-label={`Rules of ${c.title}`}
                    className="rounded-sm px-2 py-0.5 text-xs whitespace-nowrap hover:bg-sheet"
                    onClick={() => setOpened(isOpen ? null : c.path)}
                  >
                    {here && !here.isShipped ? 'Our rules' : 'Rules'}
                  </button>
                </td>
              </tr>
              {isOpen && here && (
                <tr>
                  <td colSpan={7} className="!p-0 pb-3">
                    <CategoryRulesPanel
                      key={JSON.stringify(here.own)}
                      category={c}
                      categories={categories}
                      rules={here}
                      mayEdit={list.mayEdit}
                    />
                  </td>
                </tr>
              )}
            </Fragment>
          )
        })}
      </tbody>
    </table>
  )
}

/** Choosing another rig shows what it does first; nothing is changed by the choice alone. */
function RigOfCategory({ category, list }: { category: Category; list: RigList }) {
  const [propose, { isLoading }] = useProposeCategoryRigMutation()
  const fitting = list.rigs.filter(r => STAGE_KIND[r.rig.stage] === category.kind)
  const current = list.rigs.find(r => r.rig.name === category.rig)
  if (!list.mayEdit || fitting.length < 2) return <span>{current?.rig.title ?? category.rig}</span>
  const choose = async (rig: string) => {
    const result = await propose({ path: category.path, rig })
    if (result.error) tellProblem(result.error)
    else toast(`Trying it for ${category.title}: the samples stand at the top of this page.`)
  }
  return (
    <Choice
      label={`Rig of ${category.title}`}
      variant="plain"
      className="-my-1 -ml-1 max-w-52"
      value={category.rig}
      disabled={isLoading}
      onChange={choose}
      options={fitting.map(({ rig }) => ({ value: rig.name, text: rig.title }))}
    />
  )
}

function RigIndex({ list }: { list: RigList }) {
  return (
    <ul className="flex flex-col gap-2">
      {list.rigs.map(({ rig, sample, items, older, isShipped, proposal }) => (
        <li key={rig.name}>
          <Link to={`/standard/rigs/${rig.name}`} className="flex gap-3 bg-sheet p-2 hover:bg-mount">
            <span className="w-24 shrink-0">
              {sample ? (
                <PreviewFrame url={sample} alt="" />
              ) : (
                <span className="flex aspect-[4/3] items-center justify-center bg-mount px-1 text-center text-2xs text-quiet">
                  no picture on it yet
                </span>
              )}
            </span>
            <span className="min-w-0 text-xs">
              <span className="block truncate text-sm font-medium">{rig.title}</span>
              <span className="block text-quiet">
                {isShipped ? 'as shipped' : 'ours'}, revision <span className="figures">{rig.revision}</span>
              </span>
              <span className="block text-quiet">
                {plural(items, 'item')}
                {older > 0 && `, ${older} with an older picture`}
              </span>
              {proposal && <span className="block font-medium">a change is being tried</span>}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  )
}
