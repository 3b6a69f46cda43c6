import type { Facets } from '#shared/contracts/find.contract'
import type { WallAddress } from '../wall-address'
import { ColorBlock } from './ColorBlock'
import { DeskBlock } from './DeskBlock'
import { DotBlock } from './DotBlock'
import { FigureBlock } from './FigureBlock'
import { DRAWN_FIGURES, VALUE_FACETS } from './facet-words'
import { TermBlock } from './TermBlock'
import { UsableBlock } from './UsableBlock'
import { WhenBlock } from './WhenBlock'

interface Props {
  facets: Facets
  address: WallAddress
  meaningOf: (color: number) => string
  onChange: (patch: Partial<WallAddress>) => void
}

/** Everything by which what is in view can be told apart; the wall below follows each choice. */
export function NarrowPanel({ facets, address, meaningOf, onChange }: Props) {
  const hasColors = address.color !== '' || facets.figures.lrv !== undefined || facets.figures.roughness !== undefined
  return (
    <section aria-label="Narrow the view" className="max-h-[46vh] shrink-0 overflow-auto border-y border-line bg-sheet px-6 pt-3">
      {/* Columns of their own height: within a bound one they would go on to the right. */}
      <div className="columns-[11.5rem] gap-7">
        {VALUE_FACETS.map(([facet, title]) => {
          const values = facets.terms[facet]
          if (facet === 'desk')
            return <DeskBlock key={facet} values={values} address={address} onChange={desk => onChange({ desk })} />
          return (
            values && (
              <TermBlock
                key={facet}
                facet={facet}
                title={title}
                values={values}
                more={facets.more[facet]}
                address={address}
                onChange={text => onChange({ [facet]: text })}
              />
            )
          )
        })}
        <UsableBlock value={address.usableIn} onChange={usableIn => onChange({ usableIn })} />
        <DotBlock values={facets.terms.dot ?? []} address={address} meaningOf={meaningOf} onChange={dot => onChange({ dot })} />
        {hasColors && <ColorBlock value={address.color} onChange={color => onChange({ color })} />}
        {DRAWN_FIGURES.map(facet => {
          const histogram = facets.figures[facet]
          return (
            histogram && (
              <FigureBlock
                key={facet}
                facet={facet}
                histogram={histogram}
                value={address[facet]}
                onChange={text => onChange({ [facet]: text })}
              />
            )
          )
        })}
        <WhenBlock title="Added" value={address.addedDay} onChange={addedDay => onChange({ addedDay })} />
        <WhenBlock title="Changed" value={address.changedDay} onChange={changedDay => onChange({ changedDay })} />
      </div>
    </section>
  )
}
