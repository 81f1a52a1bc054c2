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
/** What an email says as one reader gets it. */
export const filledEmail = {
  subject: z.string(),
  body: z.string(),
  html: z.string().nullable(),
}
