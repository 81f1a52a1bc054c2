/**
 * The states and provinces by which towns of one name are distinguished: by country and the gazetteer's code, the code
 * people write (ISO 3166-2) and the name. Names are in plain letters, as `place_key` leaves them.
 */
export const REGIONS: Record<string, Record<string, readonly [code: string, ...names: string[]]>> = {
  US: byCode(
    'AL Alabama|AK Alaska|AZ Arizona|AR Arkansas|CA California|CO Colorado|CT Connecticut|DE Delaware|DC District of Columbia|FL Florida|GA Georgia|HI Hawaii|ID Idaho|IL Illinois|IN Indiana|IA Iowa|KS Kansas|KY Kentucky|LA Louisiana|ME Maine|MD Maryland|MA Massachusetts|MI Michigan|MN Minnesota|MS Mississippi|MO Missouri|MT Montana|NE Nebraska|NV Nevada|NH New Hampshire|NJ New Jersey|NM New Mexico|NY New York|NC North Carolina|ND North Dakota|OH Ohio|OK Oklahoma|OR Oregon|PA Pennsylvania|RI Rhode Island|SC South Carolina|SD South Dakota|TN Tennessee|TX Texas|UT Utah|VT Vermont|VA Virginia|WA Washington|WV West Virginia|WI Wisconsin|WY Wyoming',
  ),
  CA: {
    '01': ['AB', 'Alberta'],
    '02': ['BC', 'British Columbia'],
    '03': ['MB', 'Manitoba'],
    '04': ['NB', 'New Brunswick'],
    '05': ['NL', 'Newfoundland and Labrador'],
    '07': ['NS', 'Nova Scotia'],
    '08': ['ON', 'Ontario'],
    '09': ['PE', 'Prince Edward Island'],
    '10': ['QC', 'Quebec'],
    '11': ['SK', 'Saskatchewan'],
    '12': ['YT', 'Yukon'],
    '13': ['NT', 'Northwest Territories'],
    '14': ['NU', 'Nunavut'],
  },
  AU: {
    '01': ['ACT', 'Australian Capital Territory'],
    '02': ['NSW', 'New South Wales'],
    '03': ['NT', 'Northern Territory'],
    '04': ['QLD', 'Queensland'],
    '05': ['SA', 'South Australia'],
    '06': ['TAS', 'Tasmania'],
    '07': ['VIC', 'Victoria'],
    '08': ['WA', 'Western Australia'],
  },
}

function byCode(states: string): Record<string, [string, string]> {
  return Object.fromEntries(
    states.split('|').map((status) => {
      const code = status.slice(0, 2)
      return [code, [code, status.slice(3)]]
    }),
  )
}
