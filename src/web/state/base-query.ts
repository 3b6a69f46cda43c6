import { type BaseQueryFn, type FetchArgs, type FetchBaseQueryError, fetchBaseQuery } from '@reduxjs/toolkit/query/react'
import { z } from 'zod'
import { readRemembered } from './remembered'
import { findAnswerFault } from './request'

const ask = fetchBaseQuery({ baseUrl: '/', credentials: 'same-origin' })

/** While developing, and where the tests say so, every answer is held against the contract. */
const checksAnswers = (): boolean => readRemembered('check answers', z.boolean(), false)

export const baseQuery: BaseQueryFn<FetchArgs, unknown, FetchBaseQueryError> = async (request, api, more) => {
  const result = await ask(request, api, more)
  if (result.data !== undefined && checksAnswers()) {
    const fault = findAnswerFault(api.endpoint, result.data)
    if (fault) console.error(fault)
  }
  return result
}
