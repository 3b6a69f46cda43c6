import { z } from 'zod'
import { fidelityListSchema, fidelityQuerySchema } from '../fidelity.contract'
import { ownPictureListSchema, setOwnPicturesSchema } from '../own-picture.contract'
import { done, endpoint, id } from './endpoint'

export const PICTURES_ENDPOINTS = {
  renderFinal: endpoint({
    method: 'post',
    path: '/api/items/{id}/final-preview',
    summary: 'Ask for the final picture of an item',
    params: z.object({ id }),
    response: done,
  }),
  renderTurntable: endpoint({
    method: 'post',
    path: '/api/items/{id}/turntable',
    summary: 'Ask for one full turn of an item as a short loop',
    params: z.object({ id }),
    response: done,
  }),
  takeDeliveredPicture: endpoint({
    method: 'post',
    path: '/api/items/{id}/own-picture',
    summary: 'Show a picture that came along in the place of the one of the rig',
    params: z.object({ id }),
    body: z.object({ hash: z.string().regex(/^[0-9a-f]{64}$/) }),
    response: done,
  }),
  listOwnPictures: endpoint({
    method: 'get',
    path: '/api/own-pictures',
    summary: 'Items that show a picture of their own, the worst first',
    response: ownPictureListSchema,
  }),
  setOwnPictures: endpoint({
    method: 'patch',
    path: '/api/own-pictures',
    summary: 'Show the pictures of the rigs instead of these, or these again',
    body: setOwnPicturesSchema,
    response: done,
  }),
  measureFidelity: endpoint({
    method: 'post',
    path: '/api/items/{id}/fidelity',
    summary: 'Measure what each target loses of a material',
    params: z.object({ id }),
    response: done,
  }),
  listFidelity: endpoint({
    method: 'get',
    path: '/api/fidelity',
    summary: 'Materials that lose more than a limit in a target',
    query: fidelityQuerySchema,
    response: fidelityListSchema,
  }),
  measureMissingFidelity: endpoint({
    method: 'post',
    path: '/api/fidelity',
    summary: 'Measure every material of a view that was not measured yet',
    body: fidelityQuerySchema,
    response: z.object({ asked: z.number() }),
  }),
}
