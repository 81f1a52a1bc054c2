import { step } from '../cadences/stepDraft'
import { HELLO, type StarterCadence } from './starterCadence'

/** For people who have asked for something, or were met. */
export const INBOUND: readonly StarterCadence[] = [
  {
    key: 'inbound',
    name: 'Inbound request',
    category: 'Inbound',
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
    category: 'Inbound',
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
