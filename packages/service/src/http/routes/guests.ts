import { guestSettleShape, guestShape, guestStates, laneGuestsShape } from '@monsoon/contract';
import * as yup from 'yup';
import type { App } from '../../app.ts';
import { guestsOfLane, settleGuest } from '../../lanes/guests.ts';
import { type AnyRoute, route } from '../route.ts';
import { findLane } from './lanes.ts';

/** The guests of a lane's events: the messages they got, and what they replied. */
export const guestRoutes = (app: App): AnyRoute[] => [
  route(
    {
      method: 'get',
      path: '/lanes/:lane/guests',
      summary: 'Guests of the events of a lane, with the messages they got and what they replied',
      may: 'read',
      answer: laneGuestsShape,
      query: yup.object({
        state: yup.string<(typeof guestStates)[number]>().oneOf([...guestStates], '${path}: "${value}" is no state of a guest; states are ${values}'),
        cursor: yup.string().matches(/^[0-9a-f-]{36} \S+$/, '${path}: "${value}" is no cursor of this list; give the "next" of the page before'),
        limit: yup.number().integer().min(1).max(500).default(100),
      }),
    },
    async ({ params, query }) => guestsOfLane(app, await findLane(app, params.lane), query),
  ),
  route(
    {
      method: 'post',
      path: '/lanes/:lane/guests/:pair/:email/settle',
      summary: 'Say of a message that is doubtful or was refused that it counts as sent, or have it sent again',
      may: 'operate',
      body: guestSettleShape,
      answer: guestShape,
      entry: (body) => body.as,
    },
    async ({ params, body }) => settleGuest(app, await findLane(app, params.lane), params, body.as),
  ),
];
