import greenhouse from '../../../examples/greenhouse.plan.json';

/** The demo plans that come with the product, as the text of their files. */
export const DEMOS = [{ id: 'greenhouse', text: JSON.stringify(greenhouse) }] as const;
