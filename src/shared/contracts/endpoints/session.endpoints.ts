import { z } from 'zod'
import { librarySchema, sessionSchema, signInSchema } from '../session.contract'
import { done, endpoint } from './endpoint'

export const SESSION_ENDPOINTS = {
  getSession: endpoint({ method: 'get', path: '/api/session', summary: 'Who is signed in', open: true, response: sessionSchema }),
  signIn: endpoint({
    method: 'post',
    path: '/api/session',
    summary: 'Sign in',
    open: true,
    body: signInSchema,
    response: sessionSchema,
  }),
  signOut: endpoint({ method: 'delete', path: '/api/session', summary: 'Sign out', open: true, response: done }),
  getAlive: endpoint({
    method: 'get',
    path: '/api/alive',
    summary: 'Whether the session holds and the database answers, and nothing else',
    response: done,
  }),
  listLibraries: endpoint({
    method: 'get',
    path: '/api/libraries',
    summary: 'Libraries the asker may see',
    response: z.array(librarySchema),
  }),
}
