import { useState } from 'react'
import { z } from 'zod'
import { readRemembered, remember } from '../../../state/remembered'
import { drawsOnProcessor } from '../../../viewer/on-processor'

function useRemembered(key: string, or: () => boolean): [boolean, (isOn: boolean) => void] {
  const [isOn, set] = useState(() => readRemembered(key, z.boolean(), or()))
  const choose = (next: boolean) => {
    set(next)
    remember(key, next)
  }
  return [isOn, choose]
}

/** How a mock-up is looked at in this browser, whichever it is. */
export function useViewChoices() {
  const [tracesAtRest, setTraces] = useRemembered('mock-up traces', () => true)
  const [drawsShadows, setShadows] = useRemembered('mock-up shadows', () => !drawsOnProcessor())
  return { tracesAtRest, setTraces, drawsShadows, setShadows }
}

export type ViewChoices = ReturnType<typeof useViewChoices>
