import type { Brief } from '#shared/api/desk/desk'

/** What is done without a call, by its kind, and what its button is called. */
export const DONE_LABELS: Partial<Record<string, string>> = {
  reply: 'No answer needed',
  task: 'Done',
  check_mail: 'Done',
  meeting_result: 'Done',
  social: 'Done',
  text: 'Sent',
  meeting: 'Met',
  email: 'Sent from elsewhere',
}

/** What is written for the prospect in hand: an answer, the email of a step, the details that an email lacks. */
export function writtenLabel({ task, held }: Brief): string {
  if (task?.kind === 'reply') return 'Write the answer'
  if (task?.kind === 'email') return 'Change the email'
  return task?.kind === 'check_mail' && held?.missing.length ? 'Fill in what the email lacks' : ''
}

/** What is sent from here for the prospect in hand. */
export function sentLabel({ task, held, textGateway }: Brief): string {
  if (task?.kind === 'text' && textGateway) return 'Send the text'
  return task?.kind === 'email' || held ? 'Send the email' : ''
}
