import { branch, ifPreviousDone, step } from '../cadences/stepDraft'
import { HELLO, type StarterCadence } from './starterCadence'

/** For people who have not heard of the team. */
export const OUTBOUND: readonly StarterCadence[] = [
  {
    key: 'outbound',
    name: 'Outbound over three weeks',
    category: 'Outbound',
    about: 'For people who have not heard of you: emails, calls, a social touch and a text over three weeks.',
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
        'social',
        1,
        'business_days',
        'Follow them',
        'Follow {{ first_name | default: "them" }} where they post, and say one true thing about what they wrote.',
      ),
      step(
        'call',
        1,
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
        'text',
        3,
        'business_days',
        'Text',
        '{{ first_name | default: "Hello" }}, this is {{ sender_first_name }} at {{ team }}. I wrote and called about [[the problem]]. Is a call on Thursday all right? No is fine too.',
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
        4,
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
    category: 'Outbound',
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
]
