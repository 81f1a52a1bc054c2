import { z } from 'zod'
import { id, text } from './endpoint'

/** Formatting and files of an email’s text; the plain text of what has formatting is made of it. */
export const emailFormatting = {
  html: text(200_000)
    .nullable()
    .default(null)
    .describe('The text with its formatting; the plain text is made of it. null: plain text only'),
  attachments: z.array(id).max(10).default([]).describe('Files that go with the email'),
}
/** What a to-do says when it is due: the script of a call, the text of an email or a text, what to do. */
export const toDoContent = {
  subject: text(300).default('').describe('Of an email'),
  body: text(50_000).default('').describe('May have merge fields, which are filled in when it is due'),
  ...emailFormatting,
}
/** What an email says as one reader gets it. */
export const filledEmail = {
  subject: z.string(),
  body: z.string(),
  html: z.string().nullable(),
}
