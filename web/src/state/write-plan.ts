/** Apart, so that the schemas of plans are no part of the first load. */
export { writePlan } from '@herzschlag/core';
