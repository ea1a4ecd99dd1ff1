import { placesView } from '../../../server/places';
import { answer } from '../answer';

export const GET = (): Promise<Response> => answer(placesView);
