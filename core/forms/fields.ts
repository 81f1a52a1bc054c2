import { z } from 'zod'

/** What a form can ask besides custom fields of prospects. */
export const FORM_FIELDS = {
  name: 'Name',
  email: 'Email',
  phone: 'Phone',
  company: 'Company',
  title: 'Job title',
  country: 'Country',
  region: 'State or region',
  message: 'Message',
} as const
export type FormFieldKey = keyof typeof FORM_FIELDS

/** One question of a form: a key of FORM_FIELDS or the id of a custom field, and how it is asked. */
export interface FormField {
  key: string
  label: string
  required: boolean
}

/** What every form asks: without both nobody could be found or answered. */
export const ALWAYS_ASKED: readonly string[] = ['name', 'email'] satisfies FormFieldKey[]

/** The keys of what becomes part of the prospect, and is read there. */
export const ABOUT_SENDER: readonly string[] = Object.keys(FORM_FIELDS).filter((key) => key !== 'message')

/** Whether a key is one of FORM_FIELDS; otherwise it is the id of a custom field. */
export const isUsual = (key: string): key is FormFieldKey => key in FORM_FIELDS

const field = z.object({
  key: z.union([z.enum(Object.keys(FORM_FIELDS) as [FormFieldKey, ...FormFieldKey[]]), z.uuid('Choose a field')]),
  label: z.string().trim().min(1, 'Enter a label').max(120),
  required: z.boolean(),
})

/** The questions of a form, in order: each once, name and email among them and required. */
export const formFieldsSchema = z
  .array(field)
  .max(30)
  .refine((fields) => new Set(fields.map(({ key }) => key)).size === fields.length, 'Each field is asked once')
  .refine(
    (fields) => ALWAYS_ASKED.every((key) => fields.some((one) => one.key === key && one.required)),
    'A form must ask for name and email, both required',
  )
