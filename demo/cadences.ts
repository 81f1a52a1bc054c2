import type { StepDraft } from '../shared/api/cadences'

type Plan = Omit<StepDraft, 'id'>
const step = (kind: Plan['kind'], amount: number, unit: Plan['wait']['unit'], name: string, body: string, subject = ''): Plan => ({ kind, wait: { amount, unit }, name, subject, body })

/** The demo team's cadences. */
export const CADENCES: { name: string, cold: boolean, exits: { replied: 'person' | 'company', booked: 'person' | 'company' }, steps: Plan[] }[] = [
  {
    name: 'Aging rooms, first contact', cold: true, exits: { replied: 'person', booked: 'company' },
    steps: [
      step('email', 0, 'hours', 'First email', 'Hello {{ first_name | default: "there" }},\n\nwhen an aging room drifts two degrees overnight, most teams find out at the next walk-round. {{ team }} makes loggers that ring somebody within a minute.\n\nHow do you find out at {{ company | default: "your place" }} today?\n\n{{ sender_first_name }}', 'The night the aging room drifted'),
      step('call', 2, 'business_days', 'First call', '{{ first_name | default: "Hello" }}, it’s {{ sender_first_name }} at {{ team }}. Teams your size tell us the night the aging room drifted cost them a batch. When did you last check yours at 3 a.m.?\n\nIf busy: ask for 15 minutes on Thursday.'),
      step('call', 1, 'business_days', 'Second call', '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }} again. I wrote about the night the room drifted. Who gets woken up at {{ company | default: "your place" }} when that happens?'),
      step('email', 2, 'hours', 'After the call', 'Hello {{ first_name | default: "there" }},\n\nI just tried to reach you. Two lines are enough: who looks after the loggers at {{ company | default: "your place" }}?\n\n{{ sender_first_name }}', 'Tried to reach you'),
      step('call', 3, 'business_days', 'Third call', '{{ first_name | default: "Hello" }}, last try from me: is drift in the rooms something you want to be woken up for?'),
      step('email', 2, 'business_days', 'Last email', 'Hello {{ first_name | default: "there" }},\n\nI will not keep knocking. If a room drifts one night, this is where we are.\n\n{{ sender_first_name }}, {{ team }}', 'I will stop here'),
    ],
  },
  {
    name: 'Asked for the guide', cold: false, exits: { replied: 'company', booked: 'company' },
    steps: [
      step('email', 0, 'hours', 'The guide', 'Hello {{ first_name | default: "there" }},\n\nhere is the guide to mapping a cold room, as you asked. Page 4 is the one people keep.\n\n{{ sender_first_name }}', 'The guide you asked for'),
      step('call', 2, 'hours', 'Call the same day', 'You asked for the mapping guide this morning, {{ first_name | default: "hello" }}. Which room is it for?'),
      step('email', 2, 'business_days', 'Second email', 'Hello {{ first_name | default: "there" }},\n\ndid page 4 help? If you tell me the size of the room, I can say how many loggers it takes.\n\n{{ sender_first_name }}', 'How many loggers a room takes'),
      step('call', 1, 'business_days', 'Last call', 'Checking in on the guide, {{ first_name | default: "hello" }}: did you map the room?'),
    ],
  },
]
