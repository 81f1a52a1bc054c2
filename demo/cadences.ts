import { randomUUID } from 'node:crypto'
import type { EntryRules } from '../core/cadence/entry'
import type { Scope } from '../core/enumerations'
import { branch, ifPreviousDone, step, type UnsavedStep } from '../server/services/cadences/stepDraft'

/** A last email in the thread of the first, which the rep looks at before it goes. */
const reviewed = (name: string, body: string): UnsavedStep => ({
  ...step('email', 3, 'business_days', name, body),
  review: true,
})

/** An email with a second version beside it, which half of the prospects get. */
const tried = (subject: string, body: string, ...given: Parameters<typeof step>): UnsavedStep => ({
  ...step(...given),
  versions: [{ id: randomUUID(), weight: 1, subject, body, html: null }],
})

/** The demo team's cadences. */
export const CADENCES: {
  name: string
  category: string
  description: string
  cold: boolean
  exits: { replied: Scope; booked: Scope }
  entry?: Partial<EntryRules>
  steps: UnsavedStep[]
}[] = [
  {
    name: 'Aging rooms, first contact',
    category: 'Outbound',
    description: 'For creameries and cold stores that have not heard of us.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      tried(
        'The one walk-round you would rather not do',
        'Hello {{ first_name | default: "there" }},\n\nwho walks round the aging rooms at {{ company | default: "your place" }} on a Sunday night? {{ team }} makes loggers that do, and call someone within a minute.\n\nWorth ten minutes?\n\n{{ sender_first_name }}',
        'email',
        0,
        'hours',
        'First email',
        'Hello {{ first_name | default: "there" }},\n\nwhen an aging room drifts two degrees overnight, most teams find out at the next walk-round. {{ team }} makes loggers that call someone within a minute.\n\nHow do you find out at {{ company | default: "your place" }} today?\n\n{{ sender_first_name }}',
        'The night the aging room drifted',
      ),
      step(
        'call',
        2,
        'business_days',
        'First call',
        '{{ first_name | default: "Hello" }}, it’s {{ sender_first_name }} at {{ team }}. Teams your size tell us the night the aging room drifted cost them a batch. When did you last check yours at 3 a.m.?\n\nIf busy: ask for 15 minutes on Thursday.',
      ),
      step(
        'call',
        1,
        'business_days',
        'Second call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }} again. I wrote about the night the room drifted. Who gets woken up at {{ company | default: "your place" }} when that happens?',
      ),
      ifPreviousDone(
        step(
          'email',
          2,
          'hours',
          'After the call',
          'Hello {{ first_name | default: "there" }},\n\nI just tried to reach you. Two lines are enough: who looks after the loggers at {{ company | default: "your place" }}?\n\n{{ sender_first_name }}',
          'Tried to reach you',
        ),
      ),
      step(
        'call',
        3,
        'business_days',
        'Third call',
        '{{ first_name | default: "Hello" }}, last try from me: is drift in the rooms something you want to be woken up for?',
      ),
      step(
        'email',
        2,
        'business_days',
        'Last email',
        'Hello {{ first_name | default: "there" }},\n\nI will not keep knocking. If a room drifts one night, this is where we are.\n\n{{ sender_first_name }}, {{ team }}',
        'I will stop here',
      ),
    ],
  },
  {
    name: 'Asked for the guide',
    category: 'Inbound',
    description: 'For people who asked for the mapping guide: answer the same day.',
    cold: false,
    exits: { replied: 'company', booked: 'company' },
    steps: [
      step(
        'email',
        0,
        'hours',
        'The mapping guide',
        'Hello {{ first_name | default: "there" }},\n\nhere is the guide to mapping a cold room, as you asked. Page 4 is the one people keep.\n\n{{ sender_first_name }}',
        'The guide you asked for',
      ),
      step(
        'call',
        2,
        'hours',
        'Call the same day',
        'You asked for the mapping guide this morning, {{ first_name | default: "hello" }}. Which room is it for?',
      ),
      step(
        'email',
        2,
        'business_days',
        'Second email',
        'Hello {{ first_name | default: "there" }},\n\ndid page 4 help? If you tell me the size of the room, I can say how many loggers it takes.\n\n{{ sender_first_name }}',
        'How many loggers a room takes',
      ),
      step(
        'call',
        1,
        'business_days',
        'Last call',
        'Checking in on the guide, {{ first_name | default: "hello" }}: did you map the room?',
      ),
    ],
  },
  {
    name: 'Met at the cold chain fair',
    category: 'Events',
    description: 'For everyone who came by the booth.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'email',
        0,
        'hours',
        'After the fair',
        'Hello {{ first_name | default: "there" }},\n\nit was good to see you at the fair. You asked what happens when a logger loses its signal: it keeps thirty days and sends them later.\n\nShall I send you one to try?\n\n{{ sender_first_name }}',
        'The logger you had in your hand',
      ),
      step(
        'call',
        2,
        'business_days',
        'First call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}, from the fair. Which of your rooms did you have in mind?',
      ),
      step(
        'social',
        1,
        'hours',
        'Stay in touch',
        'It was good to see you at the fair, {{ first_name | default: "hello" }}. The photo of your loggers came out well.',
      ),
      step(
        'task',
        1,
        'business_days',
        'Send the one-page summary',
        'Print the page for their kind of room, with a note by hand.',
      ),
      step(
        'call',
        3,
        'business_days',
        'Did it arrive?',
        '{{ first_name | default: "Hello" }}, did the page arrive? What did you think of the second picture?',
      ),
      step(
        'text',
        1,
        'business_days',
        'Text about the trial box',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}, from the fair. Shall I send the trial box this week? Yes or no is enough.',
      ),
      reviewed(
        'Last email',
        'Hello {{ first_name | default: "there" }},\n\nI will leave it here. The trial box is yours whenever you ask for it.\n\n{{ sender_first_name }}',
      ),
    ],
  },
  {
    name: 'Call first',
    category: 'Outbound',
    description: 'For people with a direct line: the call decides what follows.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    entry: { again: 90 },
    steps: [
      step(
        'call',
        0,
        'hours',
        'First call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. I call people who keep things cold. Who at {{ company | default: "your place" }} gets up at night when a room drifts?',
      ),
      step(
        'email',
        2,
        'hours',
        'I just called',
        'Hello {{ first_name | default: "there" }},\n\nI just called about the cold rooms at {{ company | default: "your place" }}. Who should I talk to?\n\n{{ sender_first_name }}',
        'Who looks after your cold rooms?',
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
              '{{ first_name | default: "Hello" }}, {{ sender_first_name }} again. I wrote to you about the cold rooms. Paper charts or loggers?',
            ),
          ],
        },
        {
          name: 'Not opened',
          when: null,
          steps: [
            step(
              'call',
              0,
              'hours',
              'Second call',
              '{{ first_name | default: "Hello" }}, {{ sender_first_name }} again. One question only: paper charts or loggers?',
            ),
          ],
        },
      ]),
      step(
        'call',
        3,
        'business_days',
        'Last call',
        '{{ first_name | default: "Hello" }}, last try this week from {{ sender_first_name }} at {{ team }}.',
      ),
    ],
  },
  {
    name: 'Quiet for a year',
    category: 'Follow-up',
    description: 'For people we spoke to and lost sight of.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'email',
        0,
        'hours',
        'What is new',
        'Hello {{ first_name | default: "there" }},\n\nwe talked some time ago and it was too early. Since then the loggers got a battery that lasts four years.\n\nIs it still too early?\n\n{{ sender_first_name }}',
        'Still too early?',
      ),
      step(
        'call',
        4,
        'business_days',
        'Call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. When we last spoke it was too early. What has changed at {{ company | default: "your place" }}?',
      ),
      step(
        'email',
        5,
        'business_days',
        'Second email',
        'Hello {{ first_name | default: "there" }},\n\nshall I ask again next year, or take you off my list?\n\n{{ sender_first_name }}',
        'Next year, or never?',
      ),
    ],
  },
  {
    name: 'Customers: second site',
    category: 'Customers',
    description: 'For customers who open another site.',
    cold: false,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'call',
        0,
        'hours',
        'How are they running?',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. How are the loggers running? And how do they do it at your other site?',
      ),
      step(
        'email',
        1,
        'business_days',
        'What a second site costs',
        'Hello {{ first_name | default: "there" }},\n\na second site costs about a third less, because the base station can serve both.\n\nWould you like the numbers for yours?\n\n{{ sender_first_name }}',
        'What a second site costs',
      ),
      step(
        'call',
        4,
        'business_days',
        'Follow up',
        '{{ first_name | default: "Hello" }}, have you had a look at the numbers for the second site?',
      ),
    ],
  },
]
