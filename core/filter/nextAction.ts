/**
 * When the next thing scheduled with a prospect is due, in SQL, in milliseconds UTC: the earliest of their open tasks,
 * the next steps of their cadences, cadences that are scheduled to start, and the emails that wait to be sent. Null
 * where nothing is scheduled. `prospectId` is an expression of the surrounding statement.
 */
export function nextActionSql(prospectId: string): string {
  return `
    (
      select ms(
        least(
          (select min(x.due_at) from tasks x where x.prospect_id = ${prospectId} and x.status = 'open'),
          (select min(x.due_at) from enrollments x where x.prospect_id = ${prospectId} and x.status = 'waiting'),
          (
            select min(x.send_at)
            from email_messages x
            where x.prospect_id = ${prospectId} and x.status in ('queued', 'sending')
          ),
          (
            select min(x.run_at)
            from delayed_actions x
            where x.prospect_id = ${prospectId} and x.status = 'waiting' and x.action ->> 'type' = 'startCadence'
          )
        )
      )
    )
  `
}
