import type { Scope } from '#core/enumerations'
import { branch, ifPreviousDone, step, type UnsavedStep } from './stepDraft'

interface StarterCadence {
  key: string
  name: string
  about: string
  cold: boolean
  exits: { replied: Scope; booked: Scope }
  steps: UnsavedStep[]
}
const HELLO = 'Hello {{ first_name | default: "there" }},'

/**
 * Cadences to start from. What only the team can say stands in double brackets; a cadence cannot be active before that
 * is replaced. Waits are the usual practice (common practice, no published source).
 */
export const STARTER_CADENCES: readonly StarterCadence[] = [
  {
    key: 'outbound',
    name: 'Outbound, first contact',
    about: 'For people who have not heard of you: three emails and three calls over two weeks.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'email',
        0,
        'hours',
        'First email',
        `${HELLO}\n\nI work with teams like yours on [[the problem you solve, in a few words]]. Most of them found out about it [[when it was already expensive]].\n\nHow do you handle that today?\n\n{{ signature }}`,
        '[[The problem, in four words]]',
      ),
      step(
        'call',
        2,
        'business_days',
        'First call',
        '{{ first_name | default: "Hello" }}, this is {{ sender_first_name }} at {{ team }}. I wrote to you about [[the problem]]. How do you handle it today?\n\nIf busy: ask when 15 minutes would suit.',
      ),
      step(
        'call',
        1,
        'business_days',
        'Second call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }} again. Who looks after [[the problem]] on your side?',
      ),
      ifPreviousDone(
        step(
          'email',
          2,
          'hours',
          'After the second call',
          `${HELLO}\n\nI just tried to reach you. Who on your team looks after [[the problem]]? Two lines are enough.\n\n{{ signature }}`,
          'Who looks after this?',
        ),
      ),
      step(
        'call',
        3,
        'business_days',
        'Third call',
        '{{ first_name | default: "Hello" }}, last try from me: is [[the problem]] something you want to look at this quarter?',
      ),
      step(
        'email',
        2,
        'business_days',
        'Last email',
        `${HELLO}\n\nI will stop here. If [[the problem]] comes up, reply to this email and I will call you.\n\n{{ signature }}`,
        'I will stop here',
      ),
    ],
  },
  {
    key: 'call_first',
    name: 'Call first',
    about: 'A call, then the way it asks for: an email after no answer, and a call as soon as that is opened.',
    cold: true,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'call',
        0,
        'hours',
        'First call',
        '{{ first_name | default: "Hello" }}, this is {{ sender_first_name }} at {{ team }}. I am calling about [[the problem you solve]]. How do you handle it today?',
      ),
      ...branch(0, 'hours', 'Reached?', [
        { name: 'Spoken to', when: { type: 'reached' }, ends: true, steps: [] },
        {
          name: 'No answer',
          when: null,
          steps: [
            step(
              'email',
              1,
              'hours',
              'I just called',
              `${HELLO}\n\nI just tried to call you about [[the problem]]. Is there a better time, or a better person?\n\n{{ signature }}`,
              'I just tried to call you',
            ),
          ],
        },
      ]),
      ...branch(3, 'business_days', 'Opened?', [
        {
          name: 'Opened',
          when: { type: 'opened' },
          steps: [
            step(
              'call',
              1,
              'hours',
              'Call while they have it in mind',
              '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. I wrote to you about [[the problem]]. Is now a good time?',
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
              '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }} again. Who looks after [[the problem]] on your side?',
            ),
          ],
        },
      ]),
      step(
        'email',
        4,
        'business_days',
        'Last email',
        `${HELLO}\n\nI will stop here. If [[the problem]] comes up, reply to this email and I will call you.\n\n{{ signature }}`,
        'I will stop here',
      ),
    ],
  },
  {
    key: 'inbound',
    name: 'Inbound request',
    about: 'For people who asked for something: an email at once, a call the same day, two more touches.',
    cold: false,
    exits: { replied: 'company', booked: 'company' },
    steps: [
      step(
        'email',
        0,
        'hours',
        'Answer',
        `${HELLO}\n\nthank you for asking about [[what they asked for]]. [[The answer, or the link]]\n\nI will call you today to see what you need it for.\n\n{{ signature }}`,
        'What you asked for',
      ),
      step(
        'call',
        2,
        'hours',
        'Call the same day',
        '{{ first_name | default: "Hello" }}, this is {{ sender_first_name }} at {{ team }}. You asked about [[what they asked for]]. What is it for?',
      ),
      step(
        'email',
        2,
        'business_days',
        'Second email',
        `${HELLO}\n\ndid it help? If you tell me [[what you need to know]], I can say what it would take.\n\n{{ signature }}`,
        'Did it help?',
      ),
      step(
        'call',
        1,
        'business_days',
        'Last call',
        '{{ first_name | default: "Hello" }}, did you get what you were looking for?',
      ),
    ],
  },
  {
    key: 'event',
    name: 'After an event',
    about: 'For people you met: an email the next morning, a call, one more of each.',
    cold: false,
    exits: { replied: 'person', booked: 'company' },
    steps: [
      step(
        'email',
        1,
        'business_days',
        'Nice to meet you',
        `${HELLO}\n\nit was good to meet you at [[the event]]. You mentioned [[what people come to you with]].\n\nWould 15 minutes this week help?\n\n{{ signature }}`,
        'After [[the event]]',
      ),
      step(
        'call',
        2,
        'business_days',
        'Call',
        '{{ first_name | default: "Hello" }}, {{ sender_first_name }} at {{ team }}. We met at [[the event]]. What came of it on your side?',
      ),
      step(
        'email',
        3,
        'business_days',
        'Second email',
        `${HELLO}\n\nhere is what others did after [[the event]]: [[one sentence, or a link]].\n\n{{ signature }}`,
        'What others did',
      ),
      step(
        'call',
        3,
        'business_days',
        'Last call',
        '{{ first_name | default: "Hello" }}, last try from me after [[the event]]. Is there anything I can do?',
      ),
    ],
  },
]
