import { z } from 'zod'
import {
  changeLibrarySchema,
  changePasswordSchema,
  changePersonSchema,
  choosePasswordSchema,
  foundStudioSchema,
  handedLinkSchema,
  invitePersonSchema,
  managedLibrarySchema,
  memberSchema,
  newLibrarySchema,
  openedLinkSchema,
} from '../people.contract'
import { sessionSchema } from '../session.contract'
import { created, done, endpoint, id } from './endpoint'

const token = z.object({ token: z.string().regex(/^[A-Za-z0-9_-]{20,80}$/, 'This is no link of ours.') })

export const PEOPLE_ENDPOINTS = {
  listMembers: endpoint({ method: 'get', path: '/api/people', summary: 'Who works here', response: z.array(memberSchema) }),
  invitePerson: endpoint({
    method: 'post',
    path: '/api/people',
    summary: 'Invite somebody; answers with the link to hand over',
    body: invitePersonSchema,
    response: handedLinkSchema.extend({ id: z.number() }),
  }),
  changePerson: endpoint({
    method: 'patch',
    path: '/api/people/{id}',
    summary: 'Rename somebody, give them another role or teams, let them in or not',
    params: z.object({ id }),
    body: changePersonSchema,
    response: done,
  }),
  makeLink: endpoint({
    method: 'post',
    path: '/api/people/{id}/link',
    summary: 'A new link with which somebody joins, or chooses a new password; those before it end',
    params: z.object({ id }),
    response: handedLinkSchema,
  }),
  endSessions: endpoint({
    method: 'delete',
    path: '/api/people/{id}/sessions',
    summary: 'Sign somebody out everywhere but here',
    params: z.object({ id }),
    response: z.object({ count: z.number() }),
  }),
  changePassword: endpoint({
    method: 'post',
    path: '/api/password',
    summary: 'Choose a new password; other browsers are signed out',
    body: changePasswordSchema,
    response: done,
  }),
  openLink: endpoint({
    method: 'get',
    path: '/api/links/{token}',
    summary: 'What a link is for',
    open: true,
    params: token,
    response: openedLinkSchema,
  }),
  followLink: endpoint({
    method: 'post',
    path: '/api/links/{token}',
    summary: 'Choose a password with a link, and be signed in',
    open: true,
    params: token,
    body: choosePasswordSchema,
    response: sessionSchema,
  }),
  foundStudio: endpoint({
    method: 'post',
    path: '/api/links/{token}/studio',
    summary: 'Found the studio with the link of an empty installation',
    open: true,
    params: token,
    body: foundStudioSchema,
    response: sessionSchema,
  }),
  listManagedLibraries: endpoint({
    method: 'get',
    path: '/api/libraries/managed',
    summary: 'Libraries that the asker may see, archived ones too, with how much is in them',
    response: z.array(managedLibrarySchema),
  }),
  addLibrary: endpoint({
    method: 'post',
    path: '/api/libraries',
    summary: 'Begin a library for a client',
    body: newLibrarySchema,
    response: created,
  }),
  changeLibrary: endpoint({
    method: 'patch',
    path: '/api/libraries/{id}',
    summary: 'Rename a library, or put it out of sight and back',
    params: z.object({ id }),
    body: changeLibrarySchema,
    response: done,
  }),
}
