import { branch, step, type UnsavedStep } from '../cadences/stepDraft'
import { HELLO, tagNamed, type StarterCadence } from './starterCadence'

const HORIZONS = ['Buys within 3 months', 'Buys in 3 to 9 months'] as const

/** Emails and calls by turns, so many days apart. */
const keepInTouch = (days: number): UnsavedStep[] => [
  step(
    'email',
    days,
    'days',
    'Something of use',
    `${HELLO}\n\nlast time we spoke [[the problem]] was not urgent. This may be of use until it is: [[one link, one sentence]].\n\n{{ signature }}`,
    '[[Something of use]]',
  ),
  step(
    'call',
    days,
    'days',
    'How are things?',
    '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. Nothing to sell today: what has changed with [[the problem]] since we spoke?',
  ),
  step(
    'text',
    days,
    'days',
    'Short text',
    '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}: [[what is new, in one sentence]]. Worth a call?',
  ),
  step(
    'call',
    days,
    'days',
    'Is it time?',
    '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. You said [[when it would be time]]. Is it?',
  ),
]

/** For people who were reached, or nearly, and may be ready later. */
export const LATER: readonly StarterCadence[] = [
  {
    key: 'after_voicemail',
    name: 'After a voicemail',
    category: 'Follow-up',
    about: 'One email two hours after a voicemail, and one more call if it is opened.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'email',
        2,
        'hours',
        'Email after the voicemail',
        `${HELLO}\n\nI just left you a voicemail. Is a short call this week or next better for you? Two lines are enough.\n\n{{ signature }}`,
        'My voicemail',
      ),
      ...branch(2, 'business_days', 'Opened?', [
        {
          name: 'Opened',
          when: { type: 'opened' },
          steps: [
            step(
              'call',
              1,
              'hours',
              'Call while they have it in mind',
              '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. I left you a voicemail about [[the problem]]. Is now a good time?',
            ),
          ],
        },
        { name: 'Not opened', when: null, ends: true, steps: [] },
      ]),
    ],
  },
  {
    key: 'waking',
    name: 'Waking the quiet',
    category: 'Follow-up',
    about: 'For people you spoke to and lost sight of: one honest email, a call, one last line in the same thread.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'email',
        0,
        'hours',
        'Still of interest?',
        `${HELLO}\n\nwe spoke about [[the problem]] a while ago, and then I lost sight of you. Is it solved, or did it just get old? Either answer helps me.\n\n{{ signature }}`,
        'Solved, or just old?',
      ),
      step(
        'call',
        3,
        'business_days',
        'Call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. I wrote on [[the problem]]. Solved, or just old?',
      ),
      step(
        'email',
        4,
        'business_days',
        'Last line',
        `${HELLO}\n\none last line from me. If it comes up again, reply here and I will call you the same day.\n\n{{ signature }}`,
      ),
    ],
  },
  {
    key: 'nurture',
    name: 'Nurture by horizon',
    category: 'Follow-up',
    about:
      'For people who buy later: every 10 days within 3 months, every 25 within 9, every 45 beyond, by their tags.',
    cold: false,
    emailType: 'marketing',
    exits: { replied: 'person', booked: 'person' },
    tags: HORIZONS,
    steps: branch(0, 'hours', 'When do they buy?', [
      ...HORIZONS.map((name, index) => ({
        name,
        when: {
          type: 'filter' as const,
          where: { field: 'tags', test: { op: 'hasAny' as const, values: [tagNamed(name)] } },
        },
        steps: keepInTouch([10, 25][index]!),
      })),
      { name: 'Later', when: null, steps: keepInTouch(45) },
    ]),
  },
]
