import { kmOf, milesOf } from '#core/filter/place'
import { useSession } from '~/stores/session'

/** Countries that measure the way in miles (Unicode CLDR, measurement systems). */
const IN_MILES = new Set(['US', 'GB', 'LR', 'MM'])

/** Distances in the unit of the team's country. */
export function useDistance() {
  const miles = IN_MILES.has(useSession().team.country)
  return {
    unit: miles ? ('miles' as const) : ('km' as const),
    label: miles ? 'Miles' : 'Kilometers',
    /** What is offered first. */
    usual: miles ? 30 : 50,
    /** What a filter holds for a distance as it is shown. */
    test: (shown: number) => (miles ? { km: kmOf(shown), miles: true as const } : { km: shown }),
    /** How a distance that a filter holds is shown. */
    shown: (km: number) => (miles ? milesOf(km) : km),
  }
}
