import { ABOUT_SENDER } from '#core/forms/fields'
import type { Id } from '#core/instant'
import type { Brief } from '#shared/api/desk/desk'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'

/** The last web form a prospect sent in the last 30 days, with the answers that are not read elsewhere. */
export async function lastFormOf(prospectId: Id): Promise<Brief['form']> {
  const row = await firstRow(
    db().query<NonNullable<Brief['form']>>({
      name: 'last-form-of',
      text: sql`
        select
          f.name, ms(z.at) as at,
          (
            select coalesce(jsonb_agg(a.answer order by a.place), '[]')
            from jsonb_array_elements(z.answers) with ordinality as a(answer, place)
            where not exists (
              select
              from jsonb_array_elements(f.fields) q
              where q ->> 'label' = a.answer ->> 'label' and q ->> 'key' = any($2::text[])
            )
          ) as answers
        from form_submissions z
          join forms f on f.id = z.form_id
        where z.prospect_id = $1 and z.at > world_now() - interval '30 days'
        order by z.at desc
        limit 1
      `,
      values: [prospectId, ABOUT_SENDER],
    }),
  )
  return row ?? null
}
