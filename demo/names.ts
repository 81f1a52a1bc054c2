/**
 * Invented people and companies. Any likeness to real ones is chance; domains end in .example, numbers are reserved for
 * fiction.
 */

const FIRST_NAMES = (
  'Petra Tomas Wen Rosalind Dov Yusra Anselm Marit Imre Odalys Fenna Caspian Leocadia Bram Sunniva Teodor Ilse Makoa Perpetua Ravi Ottoline Silas Nerys Evander Zofia ' +
  'Lucan Amara Wilhelmina Joss Calla Emeric Hadley Noor Thaddeus Bettany Rafael Saskia Ewan Liesl Dacre Mirela Oswin Tamsin Ivo Henrike Jory Adaeze Corwin Elke Piers'
).split(' ')

const LAST_NAMES = (
  'Lindqvist Bellweather Castellane Achterberg Marchetti Feldkamp Groot Sandoval Thistlewood Varga Penhallow Okonedo Brandvold Quillfeather Harkness Duvernay Mossbury Eklund Trevanion Stavros Winterbourne ' +
  'Kessler Abernethy Rasmusdotter Vandersloot Pellegrin Hollowell Iwasaki Crannock Delacroix Fairweather Gruber Tolliver Zielinska Marlowe Ashgrove Pettibone Rooksby Sorensen Umberfield'
).split(' ')

const taken = new Set<string>()
/** The nth name of a person, each given once; `step` changes which go together. */
export function nameOf(nth: number, step: number): { first: string; last: string } {
  for (let more = 0; ; more++) {
    const first = FIRST_NAMES[(nth * 7 + more) % FIRST_NAMES.length]!
    const last = LAST_NAMES[(nth * 3 + step + more * 5) % LAST_NAMES.length]!
    if (taken.has(`${first} ${last}`)) continue
    taken.add(`${first} ${last}`)
    return { first, last }
  }
}

export const TITLES = [
  'Head of aging',
  'Operations manager',
  'Quality lead',
  'Cellar master',
  'Facilities manager',
  'Collections manager',
  'Owner',
  'Production manager',
  'Cold chain lead',
  'Maintenance planner',
]

export interface SampleCompany {
  name: string
  domain: string
  country: string
  region: string
  city: string
  phone: (index: number) => string
}

const two = (index: number) => String(index % 100).padStart(2, '0')
/** NANP numbers 555-0100 to 555-0199, reserved for fiction. */
const nanp = (area: string) => (index: number) => `+1${area}55501${two(index)}`
/** Ofcom's numbers for drama: 020 7946 0xxx and 0161 496 0xxx. */
const ofcom = (base: string) => (index: number) => `+44${base}0${String(100 + (index % 900)).padStart(3, '0')}`
/** Numbers for drama of the German and the Australian regulators (from memory). */
const german = (base: string) => (index: number) => `+49${base}${String(100 + (index % 900))}`
const australian = (base: string) => (index: number) => `+61${base}5550${String(index % 1000).padStart(4, '0')}`

const PLACES: { country: string; region: string; city: string; phone: (index: number) => string }[] = [
  { country: 'US', region: 'WI', city: 'Viroqua', phone: nanp('608') },
  { country: 'US', region: 'VT', city: 'Randolph', phone: nanp('802') },
  { country: 'US', region: 'NY', city: 'Ithaca', phone: nanp('607') },
  { country: 'US', region: 'CO', city: 'Paonia', phone: nanp('970') },
  { country: 'US', region: 'OR', city: 'Hood River', phone: nanp('541') },
  { country: 'US', region: 'CA', city: 'Petaluma', phone: nanp('707') },
  { country: 'US', region: 'MA', city: 'Greenfield', phone: nanp('413') },
  { country: 'US', region: 'GA', city: 'Athens', phone: nanp('706') },
  { country: 'CA', region: 'ON', city: 'Guelph', phone: nanp('519') },
  { country: 'CA', region: 'BC', city: 'Nelson', phone: nanp('250') },
  { country: 'GB', region: '', city: 'London', phone: ofcom('207946') },
  { country: 'GB', region: '', city: 'Manchester', phone: ofcom('161496') },
  { country: 'DE', region: 'BE', city: 'Berlin', phone: german('3023125') },
  { country: 'DE', region: 'BY', city: 'München', phone: german('8999998') },
  { country: 'AU', region: 'NSW', city: 'Orange', phone: australian('2') },
]

const KINDS = [
  'Creamery',
  'Affinage',
  'Cider Works',
  'Perry',
  'Seed Trust',
  'Archive',
  'Cold Store',
  'Dairy',
  'Museum Stores',
  'Cellars',
]
const PLACE_NAMES = (
  'Marlpit Oxbow Halden Fennmoor Quillon Stillwater Hollin Cobblecave Wrenfield Tarnside Ottermill Briarcroft Saltmarsh Pinelow Ashdell Glimmerford Hexley Ironbrook Juniper Kestrel Larkrise Moorgate Nettlebed Osier ' +
  'Peverell Rushmere Sedgewick Thornby Underhill Vellacott Willowmere Yarrow Amberley Brackenridge Coldharbor Dunmoor Elderwick Foxcombe Greywell Hawksmoor Inglebeck Kirkstead Lowther Millrace Northmere Oakhanger Pelham Quarrendon ' +
  'Ravenglass Summerlea Tidewater Upfold Veldhoven Westerby Wychwood Yewdale Alderbrook Birchover Cranmere Dovecote ' +
  'Applegarth Beckfoot Cinderford Deepwell Eastlea Flaxmill Goosegreen Harrowgate Icknield Jackdaw Kingsfold Lambourn Meadowsweet Nightjar Orchardleigh Partridge Quince Redstart Skylark Teasel ' +
  'Undercliff Violet Wagtail Yellowhammer Barleymow Clovelly Drovers Eyebright Fallowfield Gorsefield Hazelmere Ivybridge Kittiwake Linnet Mistlethrush Nuthatch Oakapple Plover Quickthorn Rowanberry ' +
  'Sandpiper Turnstone Umberleigh Vetchling Whinchat Yarborough Ashgrove Bullfinch Curlew Dunnock Elmstead Fieldfare'
).split(' ')

/** More than a hundred companies, each with its place and its numbers. */
export const COMPANIES: SampleCompany[] = PLACE_NAMES.map((place, index) => {
  const name = `${place} ${KINDS[index % KINDS.length]}`
  // Two of three in the United States, as the team works.
  const where = PLACES[index % 3 === 2 ? 8 + (Math.floor(index / 3) % 7) : index % 8]!
  return { name, domain: `${name.toLowerCase().replaceAll(' ', '-')}.example`, ...where }
})

/** What companies of the demo do, and what they keep in their rooms. */
export const INDUSTRIES = [
  { name: 'cheese', stores: ['soft cheese', 'hard cheese'], early: true },
  { name: 'cider', stores: ['cider'], early: true },
  { name: 'seed vault', stores: ['seeds'], early: false },
  { name: 'museum store', stores: ['textiles'], early: false },
  { name: 'cold warehouse', stores: ['frozen goods'], early: false },
] as const

/** Of each of KINDS, the place among INDUSTRIES. */
const INDUSTRY_OF_KIND = [0, 0, 1, 1, 2, 3, 4, 0, 3, 1]

/** What a company does, as its name says; companies with other names store cold goods. */
export function industryOf(company: string): (typeof INDUSTRIES)[number] {
  const kind = KINDS.findIndex((name) => company.endsWith(name))
  return INDUSTRIES[INDUSTRY_OF_KIND[kind] ?? 4]!
}
