import { createApi } from '@reduxjs/toolkit/query/react'
import type { EndpointName } from '#shared/contracts/endpoints'
import type { Problem } from '#shared/contracts/failure.contract'
import { problemSchema } from '#shared/contracts/failure.contract'
import { tellSessionChanged } from '../live/session-channel'
import { baseQuery } from './base-query'
import { type AnswerOf, type ArgsOf, type EndpointOf, toRequest } from './request'

/** What an answer shows; where only some of it changed, with the id of what did. */
const TAGS = [
  'Session',
  'People',
  'Tokens',
  'Wall',
  /** Whatever shows an item, with the item's id. */
  'Item',
  'Categories',
  'Batches',
  'Batch',
  'Projects',
  'Project',
  'Upkeep',
  'Rigs',
  'Compare',
  'Fidelity',
  'OwnPictures',
  'Feeds',
  'Rules',
  'FailedWork',
  'Record',
  'Personal',
] as const
export type TagType = (typeof TAGS)[number]
export type Tag = TagType | { type: TagType; id: number }

const withId = (type: TagType, ids: readonly number[]): Tag[] => ids.map(id => ({ type, id }))

/** What changes when items are given another state, name, place or facts. */
const itemsChanged = (ids: readonly number[]): Tag[] => [
  'Wall',
  'Categories',
  'Upkeep',
  'Rules',
  'Projects',
  ...withId('Item', ids),
]

export const api = createApi({
  reducerPath: 'api',
  baseQuery,
  tagTypes: TAGS,
  keepUnusedDataFor: 120,
  endpoints: build => {
    /** A request of the contract, and what its answer shows. */
    const query = <N extends EndpointName>(
      name: N,
      shows: (answer: AnswerOf<EndpointOf<N>>, args: ArgsOf<EndpointOf<N>>) => Tag[],
      keepUnusedDataFor?: number,
    ) =>
      build.query<AnswerOf<EndpointOf<N>>, ArgsOf<EndpointOf<N>>>({
        query: args => toRequest(name, args),
        providesTags: (answer, _error, args) => (answer === undefined ? [] : shows(answer, args)),
        ...(keepUnusedDataFor === undefined ? {} : { keepUnusedDataFor }),
      })
    /** A change of the contract, and what is read again after it. */
    const change = <N extends EndpointName>(name: N, changes: (args: ArgsOf<EndpointOf<N>>) => Tag[] = () => []) =>
      build.mutation<AnswerOf<EndpointOf<N>>, ArgsOf<EndpointOf<N>>>({
        query: args => toRequest(name, args),
        invalidatesTags: (_answer, _error, args) => changes(args),
      })
    /** Who is signed in changes for every page of the browser. */
    const changeSession = <N extends 'signIn' | 'signOut' | 'followLink' | 'foundStudio'>(name: N) =>
      build.mutation<AnswerOf<EndpointOf<N>>, ArgsOf<EndpointOf<N>>>({
        query: args => toRequest(name, args),
        onQueryStarted: (_args, { queryFulfilled }) => queryFulfilled.then(tellSessionChanged, () => {}),
      })
    return {
      getSession: query('getSession', () => ['Session']),
      signIn: changeSession('signIn'),
      signOut: changeSession('signOut'),
      listMembers: query('listMembers', () => ['People']),
      invitePerson: change('invitePerson', () => ['People']),
      changePerson: change('changePerson', () => ['People', 'Session']),
      makeLink: change('makeLink'),
      listSessions: query('listSessions', () => ['People']),
      endSession: change('endSession', () => ['People']),
      endSessions: change('endSessions', () => ['People']),
      changePassword: change('changePassword', () => ['People']),
      openLink: query('openLink', () => [], 0),
      followLink: changeSession('followLink'),
      foundStudio: changeSession('foundStudio'),
      listTokens: query('listTokens', () => ['Tokens']),
      makeToken: change('makeToken', () => ['Tokens']),
      revokeToken: change('revokeToken', () => ['Tokens']),
      listManagedLibraries: query('listManagedLibraries', () => ['People']),
      addLibrary: change('addLibrary', () => ['People', 'Session']),
      changeLibrary: change('changeLibrary', () => ['People', 'Session', 'Wall', 'Categories', 'Batches', 'Projects']),
      listLibraries: query('listLibraries', () => []),

      listCategories: query('listCategories', () => ['Categories']),
      getWall: query('getWall', () => ['Wall']),
      getTable: query('getTable', () => ['Wall'], 20),
      getColorMap: query('getColorMap', () => ['Wall']),
      suggestWords: query('suggestWords', () => ['Wall'], 10),
      listFacetValues: query('listFacetValues', () => ['Wall'], 10),
      getChips: query('getChips', () => [], 0),
      getSheet: query('getSheet', ({ id }) => withId('Item', [id])),
      getFamily: query('getFamily', ({ members }) => [
        'Wall',
        ...withId(
          'Item',
          members.map(m => m.id),
        ),
      ]),
      getComparison: query('getComparison', () => ['Compare']),
      carryItems: change('carryItems', ({ ids }) => itemsChanged(ids)),
      setStates: change('setStates', ({ ids }) => itemsChanged(ids)),
      editItem: change('editItem', ({ id }) => itemsChanged([id])),
      setFacts: change('setFacts', ({ items }) => itemsChanged(items.map(i => i.id))),
      setCells: change('setCells', ({ items }) => itemsChanged(items.map(i => i.id))),
      renameItems: change('renameItems', ({ names }) => itemsChanged(names.map(n => n.id))),
      makeMaterial: change('makeMaterial', () => ['Wall']),
      renderFinal: change('renderFinal'),
      renderTurntable: change('renderTurntable'),
      fixItem: change('fixItem'),
      countView: change('countView'),

      listBatches: query('listBatches', () => ['Batches']),
      createBatch: change('createBatch', () => ['Batches']),
      getBatch: query('getBatch', ({ id }) => withId('Batch', [id])),
      getRows: query('getRows', () => [], 0),
      sortBatch: change('sortBatch', ({ batchId }) => [...withId('Batch', [batchId]), 'Batches']),
      editBatchItems: change('editBatchItems', ({ batchId }) => [...withId('Batch', [batchId]), 'Batches']),
      chooseFixes: change('chooseFixes', ({ batchId }) => withId('Batch', [batchId])),
      acceptRows: change('acceptRows', ({ batchId }) => [...withId('Batch', [batchId]), 'Batches', ...itemsChanged([])]),
      takeBackRows: change('takeBackRows', ({ batchId }) => [...withId('Batch', [batchId]), 'Batches', ...itemsChanged([])]),
      mapSourceFolder: change('mapSourceFolder', ({ batchId }) => withId('Batch', [batchId])),
      proposeMaterials: query('proposeMaterials', () => []),
      assignMaterial: change('assignMaterial', ({ batchId }) => withId('Batch', [batchId])),
      renameBatchItems: change('renameBatchItems', ({ batchId }) => withId('Batch', [batchId])),
      regroup: change('regroup', ({ batchId }) => withId('Batch', [batchId])),
      undoRegroup: change('undoRegroup', ({ batchId }) => withId('Batch', [batchId])),

      listRules: query('listRules', () => ['Rules']),
      setRules: change('setRules', () => ['Rules', 'Batch']),
      listOffStandard: query('listOffStandard', () => ['Rules']),
      changeTree: change('changeTree', () => ['Categories', 'Rules', 'Wall', 'Item', 'Rigs', 'Batch']),
      undoTree: change('undoTree', () => ['Categories', 'Rules', 'Wall', 'Item', 'Rigs', 'Batch']),
      countMatching: query('countMatching', () => ['Wall']),

      getPersonal: query('getPersonal', () => ['Personal']),
      setDots: change('setDots', ({ ids }) => ['Wall', ...withId('Item', ids.length > 200 ? [] : ids)]),
      setDotMeaning: change('setDotMeaning', () => ['Personal']),
      saveView: change('saveView', () => ['Personal']),
      changeView: change('changeView', () => ['Personal']),
      removeView: change('removeView', () => ['Personal']),
      standInView: change('standInView', () => ['Personal']),
      planBulk: change('planBulk'),
      startBulk: change('startBulk'),
      listBulk: query('listBulk', () => [], 0),
      getBulk: query('getBulk', () => [], 0),
      stopBulk: change('stopBulk'),
      undoBulk: change('undoBulk'),
      getTray: query('getTray', () => [], 0),
      addTray: change('addTray', () => ['Personal']),
      saveTray: change('saveTray'),
      removeTray: change('removeTray', () => ['Personal']),
      sendTray: change('sendTray'),

      listFeeds: query('listFeeds', () => ['Feeds']),
      getFeed: query('getFeed', ({ id }) => withId('Feeds', [id])),
      addFeed: change('addFeed', () => ['Feeds']),
      refreshFeed: change('refreshFeed', () => ['Feeds']),
      takeFromFeed: change('takeFromFeed', () => ['Feeds', 'Batches']),
      removeFeed: change('removeFeed', () => ['Feeds']),

      listProjects: query('listProjects', () => ['Projects']),
      createProject: change('createProject', () => ['Projects']),
      changeGuests: change('changeGuests', ({ id }) => [...withId('Project', [id]), 'People']),
      getProject: query('getProject', ({ id, pinned }) => [
        ...withId('Project', [id]),
        ...withId(
          'Item',
          pinned.map(p => p.chip.id),
        ),
      ]),
      pinItems: change('pinItems', ({ id, ids }) => pinsChanged(id, ids)),
      unpinItems: change('unpinItems', ({ id, ids }) => pinsChanged(id, ids)),
      updatePins: change('updatePins', ({ id, ids }) => pinsChanged(id, ids)),
      orderExport: change('orderExport', ({ id }) => withId('Project', [id])),

      listRigs: query('listRigs', () => ['Rigs']),
      proposeRig: change('proposeRig', () => ['Rigs']),
      proposeCategoryRig: change('proposeCategoryRig', () => ['Rigs']),
      adoptProposal: change('adoptProposal', () => ['Rigs', 'Categories', 'Wall', 'Item']),
      discardProposal: change('discardProposal', () => ['Rigs']),
      rerenderOlder: change('rerenderOlder', () => ['Rigs']),
      setRerenderState: change('setRerenderState', () => ['Rigs']),

      bringOwnPicture: build.mutation<void, { id: number; file: File }>({
        query: ({ id, file }) => ({
          url: `/api/items/${id}/own-picture`,
          method: 'PUT',
          params: { name: file.name },
          headers: { 'content-type': 'application/octet-stream' },
          body: file,
        }),
        invalidatesTags: (_answer, _error, { id }) => withId('Item', [id]),
      }),
      readLook: build.mutation<{ look: string }, File>({
        query: file => ({
          url: '/api/looks',
          method: 'PUT',
          headers: { 'content-type': 'application/octet-stream' },
          body: file,
        }),
      }),
      takeDeliveredPicture: change('takeDeliveredPicture', ({ id }) => withId('Item', [id])),
      listOwnPictures: query('listOwnPictures', () => ['OwnPictures']),
      setOwnPictures: change('setOwnPictures', () => ['OwnPictures', 'Item', 'Wall']),
      measureFidelity: change('measureFidelity'),
      listFidelity: query('listFidelity', () => ['Fidelity']),
      measureMissingFidelity: change('measureMissingFidelity'),

      getUpkeep: query('getUpkeep', () => ['Upkeep']),
      listRecord: query('listRecord', () => ['Record']),
      listFailedWork: query('listFailedWork', () => ['FailedWork']),
      tryFailedWork: change('tryFailedWork', () => ['FailedWork']),
      dismissFailedWork: change('dismissFailedWork', () => ['FailedWork']),
    }
  },
})

function pinsChanged(projectId: number, ids: readonly number[]): Tag[] {
  return ['Projects', 'Upkeep', ...withId('Project', [projectId]), ...withId('Item', ids)]
}

export const {
  useAcceptRowsMutation,
  useAddFeedMutation,
  useAddLibraryMutation,
  useAddTrayMutation,
  useAdoptProposalMutation,
  useAssignMaterialMutation,
  useBringOwnPictureMutation,
  useCarryItemsMutation,
  useMakeMaterialMutation,
  useChangeGuestsMutation,
  useChangeLibraryMutation,
  useChangePasswordMutation,
  useChangePersonMutation,
  useChangeTreeMutation,
  useChooseFixesMutation,
  useCountMatchingQuery,
  useCountViewMutation,
  useCreateBatchMutation,
  useCreateProjectMutation,
  useDiscardProposalMutation,
  useDismissFailedWorkMutation,
  useEditBatchItemsMutation,
  useEditItemMutation,
  useEndSessionMutation,
  useEndSessionsMutation,
  useFixItemMutation,
  useFollowLinkMutation,
  useFoundStudioMutation,
  useGetBatchQuery,
  useGetBulkQuery,
  useListBulkQuery,
  useGetComparisonQuery,
  useGetFamilyQuery,
  useGetFeedQuery,
  useGetPersonalQuery,
  useGetProjectQuery,
  useGetSessionQuery,
  useGetSheetQuery,
  useGetUpkeepQuery,
  useGetColorMapQuery,
  useGetTableQuery,
  useGetWallQuery,
  useInvitePersonMutation,
  useLazyGetTrayQuery,
  useListBatchesQuery,
  useListCategoriesQuery,
  useListFacetValuesQuery,
  useListFailedWorkQuery,
  useListFeedsQuery,
  useListFidelityQuery,
  useListManagedLibrariesQuery,
  useListMembersQuery,
  useListTokensQuery,
  useMakeLinkMutation,
  useMakeTokenMutation,
  useListOffStandardQuery,
  useListOwnPicturesQuery,
  useListProjectsQuery,
  useListRecordQuery,
  useListRigsQuery,
  useListSessionsQuery,
  useListRulesQuery,
  useMapSourceFolderMutation,
  useMeasureFidelityMutation,
  useMeasureMissingFidelityMutation,
  useOpenLinkQuery,
  useOrderExportMutation,
  usePinItemsMutation,
  usePlanBulkMutation,
  useProposeCategoryRigMutation,
  useProposeMaterialsQuery,
  useProposeRigMutation,
  useReadLookMutation,
  useRefreshFeedMutation,
  useRegroupMutation,
  useRemoveFeedMutation,
  useRemoveTrayMutation,
  useRemoveViewMutation,
  useRenameBatchItemsMutation,
  useRenameItemsMutation,
  useRenderFinalMutation,
  useRenderTurntableMutation,
  useRerenderOlderMutation,
  useRevokeTokenMutation,
  useSaveTrayMutation,
  useSaveViewMutation,
  useSendTrayMutation,
  useSetDotMeaningMutation,
  useSetDotsMutation,
  useStandInViewMutation,
  useStartBulkMutation,
  useStopBulkMutation,
  useSetCellsMutation,
  useSetFactsMutation,
  useSetOwnPicturesMutation,
  useSetRerenderStateMutation,
  useSetRulesMutation,
  useSetStatesMutation,
  useSignInMutation,
  useSignOutMutation,
  useSortBatchMutation,
  useSuggestWordsQuery,
  useTakeBackRowsMutation,
  useTakeDeliveredPictureMutation,
  useTakeFromFeedMutation,
  useTryFailedWorkMutation,
  useUndoBulkMutation,
  useUndoRegroupMutation,
  useUndoTreeMutation,
  useUnpinItemsMutation,
  useUpdatePinsMutation,
} = api

/** What a person is told of a request that was refused or never arrived. */
export function toProblem(error: unknown): Problem {
  const parsed = problemSchema.safeParse((error as { data?: unknown } | undefined)?.data)
  return parsed.success
    ? parsed.data
    : { code: 'internal', message: 'The server does not answer. Nothing was changed; try again when it is back.' }
}
