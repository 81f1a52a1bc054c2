import { defineEventHandler } from 'h3'
import { answerError } from '../http/answer'
import { Refusal } from '../services/access/errors'

/** Whatever no route answers, in the shape of every error. */
export default defineEventHandler((event) => answerError(event, new Refusal('not_found', 'There is no such address')))
