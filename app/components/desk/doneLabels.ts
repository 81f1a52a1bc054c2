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
