import { useState } from 'react'
import type { Sheet } from '#shared/contracts/items.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { useRenderTurntableMutation } from '../../state/api'

/** One full turn as a short loop; rendered once, when somebody asks. */
export function TurnView({ sheet }: { sheet: Sheet }) {
  const [render, { isLoading }] = useRenderTurntableMutation()
  const [asked, setAsked] = useState(false)
  const ask = async () => {
    const result = await render({ id: sheet.id })
    if (result.error) tellProblem(result.error)
    else setAsked(true)
  }
  return (
    <div className="flex aspect-[4/3] w-full items-center justify-center bg-mount">
      {sheet.turntable ? (
        <img src={sheet.turntable} alt={`${sheet.name} turning once round`} className="size-full object-contain" />
      ) : asked ? (
        <p role="status" className="px-8 text-center text-quiet">
          24 pictures are being rendered; the loop appears here when they are done, in a minute or two.
        </p>
      ) : (
        <div className="flex flex-col items-center gap-3 px-8 text-center">
          <p className="text-quiet">No turn of this version was rendered yet. It takes a minute or two, once.</p>
          <Button onClick={ask} disabled={isLoading}>
            Render the turn
          </Button>
        </div>
      )}
    </div>
  )
}
