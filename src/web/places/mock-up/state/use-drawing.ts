import { useState } from 'react'
import { toast } from 'sonner'
import type { Vec3 } from '#core/math/vec3'
import type { Planting, Scene } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import type { MockUpSession } from './mock-up-session'
import { newId } from './new-id'

export type DrawingKind = 'area' | 'line' | 'distance'

/** What is being drawn by clicks: where plants grow, or between which points it is measured. */
export interface Drawing {
  kind: DrawingKind
  points: readonly Vec3[]
  /** Parts of the stage that were clicked on. */
  on: readonly string[]
}

interface Props {
  scene: Scene
  session: MockUpSession
  items: ReadonlyMap<string, MockUpItem>
  /** Pieces that are chosen. */
  ids: readonly string[]
  activeGroup: string | null
  onPlanted: (id: string) => void
}

/** A little above the ground, so that lines are not drawn in it. */
const RAISED_M = 0.02
/** What an area, a line or a distance takes at least. */
const LEAST_POINTS: Record<DrawingKind, number> = { area: 3, line: 2, distance: 2 }

/** Drawing on the ground, corner by corner. */
export function useDrawing({ scene, session, items, ids, activeGroup, onPlanted }: Props) {
  const [drawing, setDrawing] = useState<Drawing | null>(null)
  const add = (point: Vec3, part: string | null) => {
    if (!drawing) return
    const { kind, points, on } = drawing
    // After two points a distance is there, and the next click begins another.
    const before = kind === 'distance' && points.length === 2 ? [] : points
    setDrawing({ kind, points: [...before, round(point)], on: part === null || on.includes(part) ? on : [...on, part] })
  }
  const finish = () => {
    setDrawing(null)
    if (!drawing || drawing.kind === 'distance' || !isEnough(drawing)) return
    const isPlant = ({ item }: { item: { inputKey: string } }) => items.get(item.inputKey)?.category.startsWith('vegetation')
    const species = ids.map(id => scene.pieces[id]).find(isPlant) ?? Object.values(scene.pieces).find(isPlant)
    if (!species) {
      toast('Put one plant of the species into the scene first, then draw where it grows.')
      return
    }
    const id = newId()
    const size = items.get(species.item.inputKey)?.sizeM
    const planting: Planting = {
      name: `Planting ${Object.keys(scene.plantings).length + 1}`,
      outline: drawing.points.map(([x, , z]): [number, number] => [x, z]),
      heightM: heightOf(drawing.points),
      species: [{ item: species.item, name: species.name, share: 1, smallest: 0.8, largest: 1.2 }],
      perM2: 1,
      leastM: 0.3,
      edgeM: 0.2,
      clearM: 0.1,
      seed: 1,
      group: activeGroup,
      isHidden: false,
      without: [],
      ...(drawing.kind === 'line' ? { along: { spacingM: spacingOf(size), strayM: 0 } } : {}),
      ...(scene.stage.kind === 'model' && drawing.on.length > 0 ? { on: [...drawing.on] } : {}),
    }
    session.act({ plantings: { [id]: planting } })
    onPlanted(id)
  }
  return {
    drawing,
    begin: (kind: DrawingKind) => setDrawing({ kind, points: [], on: [] }),
    cancel: () => setDrawing(null),
    add,
    finish,
  }
}

/** Of the middle corner by height: one that missed the edge of a terrace does not sink all that grows on it. */
const heightOf = (points: readonly Vec3[]): number => points.map(p => p[1]).sort((a, b) => a - b)[Math.floor(points.length / 2)]

export const isEnough = ({ kind, points }: Drawing): boolean => points.length >= LEAST_POINTS[kind]

/** Lines from corner to corner, an area closed. */
export function linesOf({ kind, points }: Drawing): [Vec3, Vec3][] {
  const raised = points.map(([x, y, z]): Vec3 => [x, kind === 'distance' ? y : y + RAISED_M, z])
  const lines = raised.slice(1).map((p, k): [Vec3, Vec3] => [raised[k], p])
  return kind === 'area' && raised.length > 2 ? [...lines, [raised[raised.length - 1], raised[0]]] : lines
}

/** Side by side at their widest. */
const spacingOf = (sizeM: MockUpItem['sizeM'] | undefined): number =>
  sizeM ? Math.max(0.1, Math.round(Math.max(sizeM[0], sizeM[2]) * 10) / 10) : 1

const round = (point: Vec3): Vec3 => point.map(v => Math.round(v * 1000) / 1000) as Vec3
