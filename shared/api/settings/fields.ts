import { z } from 'zod'
import { CUSTOM_FIELD_KINDS, CUSTOM_FIELD_OWNERS, valuesOf } from '#core/enumerations'
import { endpoint, id, required, withId } from '../endpoint'

export const customKind = z.enum(valuesOf(CUSTOM_FIELD_KINDS))
const of = z.enum(valuesOf(CUSTOM_FIELD_OWNERS))
const choices = z.array(required(100)).max(200)
export const customFieldSchema = z.object({
  id,
  of,
  name: z.string(),
  kind: customKind,
  choices: z.array(z.string()),
  required: z.boolean(),
  indexed: z.boolean().describe('Filters on it have an index of its own'),
  defaultValue: z.unknown(),
  version: z.number(),
})
export type CustomField = z.infer<typeof customFieldSchema>

export const listFields = endpoint({
  method: 'get',
  path: '/api/fields',
  callers: true,
  summary: 'The custom fields, in order',
  response: z.object({ fields: z.array(customFieldSchema) }),
})
export const mergeFields = endpoint({
  method: 'get',
  path: '/api/merge-fields',
  summary: 'The merge fields of templates, custom fields included',
  response: z.object({ fields: z.array(z.object({ name: z.string(), label: z.string() })) }),
})
export const addField = endpoint({
  method: 'post',
  path: '/api/fields',
  summary: 'Create a custom field',
  access: 'manager',
  body: z.object({
    of,
    name: required(60),
    kind: customKind,
    choices: choices.default([]),
    required: z.boolean().default(false),
    indexed: z.boolean().default(false),
    defaultValue: z.unknown().optional(),
  }),
  response: z.object({ id }),
})
export const editField = endpoint({
  method: 'patch',
  path: '/api/fields/{id}',
  summary: 'Edit a custom field; its kind stays',
  access: 'manager',
  params: withId,
  body: z.object({
    version: z.number().int(),
    name: required(60).optional(),
    choices: choices.optional(),
    required: z.boolean().optional(),
    indexed: z.boolean().optional(),
    defaultValue: z.unknown().optional(),
  }),
  response: z.object({ version: z.number() }),
})
export const removeField = endpoint({
  method: 'delete',
  path: '/api/fields/{id}',
  summary: 'Delete a custom field with all its values',
  access: 'manager',
  params: withId,
  response: z.object({ values: z.number() }),
})

export const tagSchema = z.object({ id, name: z.string(), people: z.number() })
export const listTags = endpoint({
  method: 'get',
  path: '/api/tags',
  summary: 'The tags, by name, with how many people have each',
  response: z.object({ tags: z.array(tagSchema) }),
})
export const addTag = endpoint({
  method: 'post',
  path: '/api/tags',
  summary: 'Create a tag; an existing one of that name is returned',
  body: z.object({ name: required(60) }),
  response: z.object({ id, known: z.boolean() }),
})
export const renameTag = endpoint({
  method: 'patch',
  path: '/api/tags/{id}',
  summary: 'Rename a tag',
  access: 'manager',
  params: withId,
  body: z.object({ name: required(60) }),
})
export const mergeTag = endpoint({
  method: 'post',
  path: '/api/tags/{id}/merge',
  summary: 'Merge a tag into another: its prospects get the other',
  access: 'manager',
  params: withId,
  body: z.object({ into: id }),
  response: z.object({ people: z.number() }),
})
export const removeTag = endpoint({
  method: 'delete',
  path: '/api/tags/{id}',
  summary: 'Delete a tag',
  access: 'manager',
  params: withId,
  response: z.object({ people: z.number() }),
})
export const setTags = endpoint({
  method: 'put',
  path: '/api/prospects/{id}/tags',
  summary: 'Set the tags of a prospect by name; new names become tags',
  params: withId,
  body: z.object({ add: z.array(required(60)).max(50).default([]), remove: z.array(required(60)).max(50).default([]) }),
  response: z.object({ tags: z.array(z.object({ id, name: z.string() })) }),
})
