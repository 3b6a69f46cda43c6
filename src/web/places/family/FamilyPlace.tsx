import { useMemo } from 'react'
import { Link, useLocation, useSearchParams } from 'react-router'
import { FAMILY_LIMIT, familyQuerySchema } from '#shared/contracts/family.contract'
import { formatNumber } from '#shared/units'
import { Choice, optionsOf } from '../../components/controls/Choice'
import { NumberInput } from '../../components/controls/NumberInput'
import { MaterialCategoryChoice } from '../../components/MaterialCategoryChoice'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useGetFamilyQuery } from '../../state/api'
import { plural } from '../../words/states'
import { nearestAlike, SORTS, type Sort, sortFamily } from './sort-family'

const SORT_WORDS: Record<Sort, string> = { hue: 'by hue', lightness: 'by lightness', roughness: 'by roughness', name: 'by name' }
const DEFAULT_LIMIT = 3

/** All of one kind of material under one light: what there is, in which order, and what is there twice in all but name. */
export function FamilyPlace() {
  const [params, setParams] = useSearchParams()
  const location = useLocation()
  const parsed = familyQuerySchema.safeParse(Object.fromEntries(params))
  const query = parsed.success ? parsed.data : familyQuerySchema.parse({})
  const sort = SORTS.find(s => s === params.get('sort')) ?? 'hue'
  const limit = Math.min(20, Math.max(0, Number(params.get('within') ?? DEFAULT_LIMIT) || 0))
  const { data, error, refetch } = useGetFamilyQuery(query)
  const change = (patch: Record<string, string>) =>
    setParams(
      old => {
        const next = new URLSearchParams(old)
        for (const [key, value] of Object.entries(patch)) next.set(key, value)
        return next
      },
      { replace: true },
    )
  const members = useMemo(() => sortFamily(data?.members ?? [], sort), [data, sort])
  const alike = useMemo(() => nearestAlike(members, limit), [members, limit])
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-11 shrink-0 items-center gap-3 px-6">
        <h1 className="text-section">Family</h1>
        <MaterialCategoryChoice value={query.category} onChange={category => change({ category })} />
        <Choice label="Order" value={sort} options={optionsOf(SORTS, SORT_WORDS)} onChange={sort => change({ sort })} />
        <span className="flex items-center gap-2 text-xs text-quiet">
          too alike within
          <NumberInput
            label="Too alike within"
            unit="ΔE00"
            className="w-24"
            min={0}
            max={20}
            value={limit}
            onSettle={within => change({ within: String(within ?? 0) })}
          />
        </span>
        <span className="figures ml-auto text-xs text-quiet" role="status">
          {data && `${plural(members.length, 'material')}, ${alike.size} too alike`}
          {data && data.total > members.length && `, the first ${FAMILY_LIMIT} of ${data.total}`}
        </span>
      </div>
      {!data ? (
        <Skeleton className="m-6 h-96" />
      ) : members.length === 0 ? (
        <EmptyState title="No material stands here." />
      ) : (
        <ul className="grid min-h-0 flex-1 auto-rows-min grid-cols-[repeat(auto-fill,minmax(7.5rem,1fr))] gap-1.5 overflow-auto px-6 pb-4">
          {members.map(m => {
            const near = alike.get(m.code)
            return (
              <li key={m.code} className="bg-mount" data-member={m.code}>
                <Link
                  to={`/compare?of=${m.code}.material-close-up`}
                  title={`${m.name}: close-up`}
                  aria-label={`Close-up of ${m.name}`}
                >
                  <PreviewFrame url={m.preview} alt="" />
                </Link>
                <div className="flex items-center gap-1.5 px-1.5 py-1 text-2xs leading-4">
                  <span aria-hidden className="size-3 shrink-0 border border-line" style={{ background: m.color ?? undefined }} />
                  <Link to={`/items/${m.code}`} state={{ behind: location }} className="truncate hover:underline" title={m.name}>
                    {m.name}
                  </Link>
                </div>
                {near && (
                  <p className="px-1.5 pb-1 text-2xs leading-4 font-semibold">
                    ≈{' '}
                    <Link to={`/compare?of=${m.code},${near.code}&view=difference`} className="underline">
                      {near.code}
                    </Link>{' '}
                    <span className="figures font-normal">{formatNumber(near.deltaE, 1)}</span>
                  </p>
                )}
              </li>
            )
          })}
        </ul>
      )}
    </div>
  )
}
