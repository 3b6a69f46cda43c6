import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react'
import type { z } from 'zod'
import type { Compared } from '#shared/contracts/compare.contract'
import { ENDPOINTS } from '#shared/contracts/endpoints'
import type { Problem } from '#shared/contracts/failure.contract'
import { problemSchema } from '#shared/contracts/failure.contract'
import type { Family, FamilyQuery } from '#shared/contracts/family.contract'
import type { Feed, FeedSummary, NewFeed } from '#shared/contracts/feed.contract'
import type { FidelityList, FidelityQuery } from '#shared/contracts/fidelity.contract'
import type {
  AssignMaterial,
  Batch,
  BatchItem,
  BatchSummary,
  chooseFixesSchema,
  EditBatchItems,
  MapSourceFolder,
  MaterialChoice,
  NewBatch,
  Regroup,
  sortBatchSchema,
} from '#shared/contracts/intake.contract'
import type {
  BulkResult,
  Category,
  EditItem,
  ItemState,
  SetFacts,
  SetFactsResult,
  Sheet,
  WallQuery,
  WallView,
} from '#shared/contracts/items.contract'
import type { OwnPictureList, SetOwnPictures } from '#shared/contracts/own-picture.contract'
import type { ExportRequest, NewProject, Project, ProjectSummary } from '#shared/contracts/projects.contract'
import type { Proposal, RigChange, RigList } from '#shared/contracts/rigs.contract'
import type { Library, Member, Session, SignIn } from '#shared/contracts/session.contract'
import type {
  ChangeTree,
  OffStandard,
  RenameItems,
  SetRules,
  SplitRuleInput,
  StandardRules,
} from '#shared/contracts/standard.contract'
import type { FailedWork, Upkeep } from '#shared/contracts/upkeep.contract'

/** The address of an endpoint with its path parameters filled in. */
function at(name: keyof typeof ENDPOINTS, params: Record<string, string | number> = {}): string {
  return ENDPOINTS[name].path.replace(/\{(\w+)\}/g, (_, key: string) => encodeURIComponent(String(params[key])))
}

export const api = createApi({
  reducerPath: 'api',
  baseQuery: fetchBaseQuery({ baseUrl: '/', credentials: 'same-origin' }),
  tagTypes: [
    'Session',
    'Wall',
    'Sheet',
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
  ],
  keepUnusedDataFor: 120,
  endpoints: build => ({
    getSession: build.query<Session, void>({ query: () => at('getSession'), providesTags: ['Session'] }),
    signIn: build.mutation<Session, SignIn>({ query: body => ({ url: at('signIn'), method: 'POST', body }) }),
    signOut: build.mutation<void, void>({ query: () => ({ url: at('signOut'), method: 'DELETE' }) }),
    listMembers: build.query<Member[], void>({ query: () => at('listMembers') }),
    listLibraries: build.query<Library[], void>({ query: () => at('listLibraries') }),
    listCategories: build.query<Category[], void>({ query: () => at('listCategories'), providesTags: ['Categories'] }),
    getWall: build.query<WallView, WallQuery>({ query: params => ({ url: at('getWall'), params }), providesTags: ['Wall'] }),
    getSheet: build.query<Sheet, { code: string; version?: number }>({
      query: ({ code, version }) => ({ url: at('getSheet', { code }), params: version === undefined ? {} : { version } }),
      providesTags: ['Sheet'],
    }),
    getFamily: build.query<Family, FamilyQuery>({ query: params => ({ url: at('getFamily'), params }), providesTags: ['Wall'] }),
    getComparison: build.query<Compared[], string>({
      query: of => ({ url: at('getComparison'), params: { of } }),
      providesTags: ['Compare'],
    }),
    setStates: build.mutation<BulkResult, { ids: number[]; state: ItemState }>({
      query: body => ({ url: at('setStates'), method: 'POST', body }),
      invalidatesTags: ['Wall', 'Sheet', 'Categories', 'Upkeep', 'Project', 'Projects'],
    }),
    editItem: build.mutation<void, { id: number } & EditItem>({
      query: ({ id, ...body }) => ({ url: at('editItem', { id }), method: 'PATCH', body }),
      invalidatesTags: ['Wall', 'Sheet', 'Categories'],
    }),
    renderFinal: build.mutation<void, number>({ query: id => ({ url: at('renderFinal', { id }), method: 'POST' }) }),
    listBatches: build.query<BatchSummary[], void>({ query: () => at('listBatches'), providesTags: ['Batches'] }),
    createBatch: build.mutation<{ id: number }, NewBatch>({
      query: body => ({ url: at('createBatch'), method: 'POST', body }),
      invalidatesTags: ['Batches'],
    }),
    getRows: build.query<BatchItem[], { batchId: number; ids: string }>({
      query: ({ batchId, ids }) => ({ url: at('getRows', { id: batchId }), params: { ids } }),
      keepUnusedDataFor: 0,
    }),
    getBatch: build.query<Batch, number>({ query: id => at('getBatch', { id }), providesTags: ['Batch'] }),
    sortBatch: build.mutation<void, { batchId: number } & z.input<typeof sortBatchSchema>>({
      query: ({ batchId, ...body }) => ({ url: at('sortBatch', { id: batchId }), method: 'POST', body }),
      invalidatesTags: ['Batch', 'Batches'],
    }),
    editBatchItems: build.mutation<void, { batchId: number } & EditBatchItems>({
      query: ({ batchId, ...body }) => ({ url: at('editBatchItems', { id: batchId }), method: 'PATCH', body }),
      invalidatesTags: ['Batch', 'Batches'],
    }),
    chooseFixes: build.mutation<BulkResult, { batchId: number } & z.input<typeof chooseFixesSchema>>({
      query: ({ batchId, ...body }) => ({ url: at('chooseFixes', { id: batchId }), method: 'POST', body }),
      invalidatesTags: ['Batch'],
    }),
    takeBackRows: build.mutation<BulkResult, { batchId: number; ids: number[] }>({
      query: ({ batchId, ids }) => ({ url: at('takeBackRows', { id: batchId }), method: 'POST', body: { ids } }),
      invalidatesTags: ['Batch', 'Batches', 'Wall', 'Categories', 'Upkeep'],
    }),
    acceptRows: build.mutation<BulkResult, { batchId: number; ids: number[] }>({
      query: ({ batchId, ids }) => ({ url: at('acceptRows', { id: batchId }), method: 'POST', body: { ids } }),
      invalidatesTags: ['Batch', 'Batches', 'Wall', 'Categories', 'Upkeep'],
    }),
    mapSourceFolder: build.mutation<void, { batchId: number } & MapSourceFolder>({
      query: ({ batchId, ...body }) => ({ url: at('mapSourceFolder', { id: batchId }), method: 'POST', body }),
      invalidatesTags: ['Batch'],
    }),
    proposeMaterials: build.query<MaterialChoice[], { batchId: number; itemId: number; part: string }>({
      query: ({ batchId, itemId, part }) => ({ url: at('proposeMaterials', { id: batchId, itemId }), params: { part } }),
    }),
    assignMaterial: build.mutation<void, { batchId: number } & AssignMaterial>({
      query: ({ batchId, ...body }) => ({ url: at('assignMaterial', { id: batchId }), method: 'POST', body }),
      invalidatesTags: ['Batch'],
    }),
    listRules: build.query<StandardRules[], void>({ query: () => at('listRules'), providesTags: ['Rules'] }),
    setRules: build.mutation<void, SetRules>({
      query: body => ({ url: at('setRules'), method: 'POST', body }),
      invalidatesTags: ['Rules', 'Batch'],
    }),
    listOffStandard: build.query<OffStandard[], string>({
      query: path => ({ url: at('listOffStandard'), params: { path } }),
      providesTags: ['Rules', 'Wall'],
    }),
    setFacts: build.mutation<SetFactsResult, SetFacts>({
      query: body => ({ url: at('setFacts'), method: 'POST', body }),
      invalidatesTags: ['Wall', 'Sheet', 'Rules'],
    }),
    renameItems: build.mutation<BulkResult, RenameItems>({
      query: body => ({ url: at('renameItems'), method: 'POST', body }),
      invalidatesTags: ['Wall', 'Sheet', 'Rules'],
    }),
    renameBatchItems: build.mutation<void, { batchId: number } & RenameItems>({
      query: ({ batchId, ...body }) => ({ url: at('renameBatchItems', { id: batchId }), method: 'POST', body }),
      invalidatesTags: ['Batch'],
    }),
    changeTree: build.mutation<{ undo: number; moved: number }, ChangeTree>({
      query: body => ({ url: at('changeTree'), method: 'POST', body }),
      invalidatesTags: ['Categories', 'Rules', 'Wall', 'Sheet', 'Rigs', 'Batch'],
    }),
    undoTree: build.mutation<BulkResult, number>({
      query: undo => ({ url: at('undoTree'), method: 'POST', body: { undo } }),
      invalidatesTags: ['Categories', 'Rules', 'Wall', 'Sheet', 'Rigs', 'Batch'],
    }),
    countMatching: build.query<{ count: number }, { path: string } & SplitRuleInput>({
      query: params => ({ url: at('countMatching'), params }),
      providesTags: ['Wall'],
    }),
    regroup: build.mutation<{ undo: number }, { batchId: number; wish: Regroup }>({
      query: ({ batchId, wish }) => ({ url: at('regroup', { id: batchId }), method: 'POST', body: wish }),
      invalidatesTags: ['Batch'],
    }),
    undoRegroup: build.mutation<void, { batchId: number; undo: number }>({
      query: ({ batchId, undo }) => ({ url: at('undoRegroup', { id: batchId }), method: 'POST', body: { undo } }),
      invalidatesTags: ['Batch'],
    }),
    listFeeds: build.query<FeedSummary[], void>({ query: () => at('listFeeds'), providesTags: ['Feeds'] }),
    getFeed: build.query<Feed, number>({ query: id => at('getFeed', { id }), providesTags: ['Feeds'] }),
    addFeed: build.mutation<{ id: number }, NewFeed>({
      query: body => ({ url: at('addFeed'), method: 'POST', body }),
      invalidatesTags: ['Feeds'],
    }),
    refreshFeed: build.mutation<Feed, number>({
      query: id => ({ url: at('refreshFeed', { id }), method: 'POST' }),
      invalidatesTags: ['Feeds'],
    }),
    takeFromFeed: build.mutation<{ id: number }, { id: number; ids: string[] }>({
      query: ({ id, ids }) => ({ url: at('takeFromFeed', { id }), method: 'POST', body: { ids } }),
      invalidatesTags: ['Feeds', 'Batches'],
    }),
    removeFeed: build.mutation<void, number>({
      query: id => ({ url: at('removeFeed', { id }), method: 'DELETE' }),
      invalidatesTags: ['Feeds'],
    }),
    listProjects: build.query<ProjectSummary[], void>({ query: () => at('listProjects'), providesTags: ['Projects'] }),
    createProject: build.mutation<{ id: number }, NewProject>({
      query: body => ({ url: at('createProject'), method: 'POST', body }),
      invalidatesTags: ['Projects'],
    }),
    getProject: build.query<Project, number>({ query: id => at('getProject', { id }), providesTags: ['Project'] }),
    pinItems: build.mutation<BulkResult, { projectId: number; ids: number[] }>({
      query: ({ projectId, ids }) => ({ url: at('pinItems', { id: projectId }), method: 'POST', body: { ids } }),
      invalidatesTags: ['Projects', 'Project', 'Sheet', 'Upkeep'],
    }),
    unpinItems: build.mutation<void, { projectId: number; ids: number[] }>({
      query: ({ projectId, ids }) => ({ url: at('unpinItems', { id: projectId }), method: 'DELETE', body: { ids } }),
      invalidatesTags: ['Projects', 'Project', 'Sheet', 'Upkeep'],
    }),
    updatePins: build.mutation<void, { projectId: number; ids: number[] }>({
      query: ({ projectId, ids }) => ({ url: at('updatePins', { id: projectId }), method: 'PATCH', body: { ids } }),
      invalidatesTags: ['Projects', 'Project', 'Sheet'],
    }),
    orderExport: build.mutation<{ id: number }, { projectId: number } & ExportRequest>({
      query: ({ projectId, ...body }) => ({ url: at('orderExport', { id: projectId }), method: 'POST', body }),
      invalidatesTags: ['Project'],
    }),
    listRigs: build.query<RigList, void>({ query: () => at('listRigs'), providesTags: ['Rigs'] }),
    proposeRig: build.mutation<Proposal, { name: string; change: RigChange }>({
      query: ({ name, change }) => ({ url: at('proposeRig', { name }), method: 'POST', body: change }),
      invalidatesTags: ['Rigs'],
    }),
    proposeCategoryRig: build.mutation<Proposal, { path: string; rig: string }>({
      query: ({ path, rig }) => ({ url: at('proposeCategoryRig', { path }), method: 'POST', body: { rig } }),
      invalidatesTags: ['Rigs'],
    }),
    adoptProposal: build.mutation<{ rerenderId: number | null }, number>({
      query: id => ({ url: at('adoptProposal', { id }), method: 'POST' }),
      invalidatesTags: ['Rigs', 'Categories', 'Wall', 'Sheet'],
    }),
    discardProposal: build.mutation<void, number>({
      query: id => ({ url: at('discardProposal', { id }), method: 'DELETE' }),
      invalidatesTags: ['Rigs'],
    }),
    rerenderOlder: build.mutation<{ rerenderId: number | null }, string>({
      query: name => ({ url: at('rerenderOlder', { name }), method: 'POST' }),
      invalidatesTags: ['Rigs'],
    }),
    setRerenderState: build.mutation<void, { id: number; state: 'running' | 'paused' | 'cancelled' }>({
      query: ({ id, state }) => ({ url: at('setRerenderState', { id }), method: 'PATCH', body: { state } }),
      invalidatesTags: ['Rigs'],
    }),
    renderTurntable: build.mutation<void, number>({ query: id => ({ url: at('renderTurntable', { id }), method: 'POST' }) }),
    fixItem: build.mutation<void, { id: number; findingIds: number[] }>({
      query: ({ id, findingIds }) => ({ url: at('fixItem', { id }), method: 'POST', body: { findingIds } }),
    }),
    bringOwnPicture: build.mutation<void, { id: number; file: File }>({
      query: ({ id, file }) => ({
        url: `/api/items/${id}/own-picture`,
        method: 'PUT',
        params: { name: file.name },
        headers: { 'content-type': 'application/octet-stream' },
        body: file,
      }),
      invalidatesTags: ['Sheet'],
    }),
    takeDeliveredPicture: build.mutation<void, { id: number; hash: string }>({
      query: ({ id, hash }) => ({ url: at('takeDeliveredPicture', { id }), method: 'POST', body: { hash } }),
      invalidatesTags: ['Sheet'],
    }),
    listOwnPictures: build.query<OwnPictureList, void>({ query: () => at('listOwnPictures'), providesTags: ['OwnPictures'] }),
    setOwnPictures: build.mutation<void, SetOwnPictures>({
      query: body => ({ url: at('setOwnPictures'), method: 'PATCH', body }),
      invalidatesTags: ['OwnPictures', 'Sheet', 'Wall'],
    }),
    measureFidelity: build.mutation<void, number>({ query: id => ({ url: at('measureFidelity', { id }), method: 'POST' }) }),
    listFidelity: build.query<FidelityList, FidelityQuery>({
      query: params => ({ url: at('listFidelity'), params }),
      providesTags: ['Fidelity'],
    }),
    measureMissingFidelity: build.mutation<{ asked: number }, FidelityQuery>({
      query: body => ({ url: at('measureMissingFidelity'), method: 'POST', body }),
    }),
    listFailedWork: build.query<FailedWork[], void>({ query: () => at('listFailedWork'), providesTags: ['FailedWork'] }),
    tryFailedWork: build.mutation<{ count: number }, number[]>({
      query: ids => ({ url: at('tryFailedWork'), method: 'POST', body: { ids } }),
      invalidatesTags: ['FailedWork'],
    }),
    dismissFailedWork: build.mutation<{ count: number }, number[]>({
      query: ids => ({ url: at('dismissFailedWork'), method: 'POST', body: { ids } }),
      invalidatesTags: ['FailedWork'],
    }),
    countView: build.mutation<void, number>({ query: id => ({ url: at('countView', { id }), method: 'POST' }) }),
    getUpkeep: build.query<Upkeep, void>({ query: () => at('getUpkeep'), providesTags: ['Upkeep'] }),
  }),
})

export const {
  useAcceptRowsMutation,
  useAddFeedMutation,
  useAdoptProposalMutation,
  useAssignMaterialMutation,
  useBringOwnPictureMutation,
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
  useFixItemMutation,
  useGetBatchQuery,
  useGetComparisonQuery,
  useGetFamilyQuery,
  useGetFeedQuery,
  useGetProjectQuery,
  useGetSessionQuery,
  useGetSheetQuery,
  useGetUpkeepQuery,
  useGetWallQuery,
  useListBatchesQuery,
  useListCategoriesQuery,
  useListFailedWorkQuery,
  useListFeedsQuery,
  useListFidelityQuery,
  useListMembersQuery,
  useListOffStandardQuery,
  useListOwnPicturesQuery,
  useListProjectsQuery,
  useListRigsQuery,
  useListRulesQuery,
  useMapSourceFolderMutation,
  useMeasureFidelityMutation,
  useMeasureMissingFidelityMutation,
  useOrderExportMutation,
  usePinItemsMutation,
  useProposeCategoryRigMutation,
  useProposeMaterialsQuery,
  useProposeRigMutation,
  useRefreshFeedMutation,
  useRegroupMutation,
  useRemoveFeedMutation,
  useRenameBatchItemsMutation,
  useRenameItemsMutation,
  useRenderFinalMutation,
  useRenderTurntableMutation,
  useRerenderOlderMutation,
  useSetFactsMutation,
  useSetOwnPicturesMutation,
  useSetRerenderStateMutation,
  useSetRulesMutation,
  useSetStatesMutation,
  useSignInMutation,
  useSignOutMutation,
  useSortBatchMutation,
  useTakeBackRowsMutation,
  useTakeDeliveredPictureMutation,
  useTakeFromFeedMutation,
  useTryFailedWorkMutation,
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
