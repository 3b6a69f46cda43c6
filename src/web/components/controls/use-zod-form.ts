import { zodResolver } from '@hookform/resolvers/zod'
import { type DefaultValues, type FieldValues, useForm } from 'react-hook-form'
import type { z } from 'zod'

/** A form whose fields are checked by the schema that the server checks them with, and named by it. */
export const useZodForm = <In extends FieldValues, Out>(schema: z.ZodType<Out, In>, defaultValues: DefaultValues<In>) =>
  useForm<In, unknown, Out>({ resolver: zodResolver(schema), defaultValues })
