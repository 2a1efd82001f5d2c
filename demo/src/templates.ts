import type { TemplateContent } from '@fulvet/contract';

/** Texts that the sales team of the made-up company keeps for its emails. */
export const DEMO_TEMPLATES: readonly TemplateContent[] = [
  {
    kind: 'template',
    name: 'Offer sent',
    folder: 'Offers',
    scope: 'all',
    subject: 'Our offer for {{deal.name|your project}}',
    html: '<p>Dear {{person.firstName|colleague}},</p><p>Our offer for {{account.name|you}} is attached. It holds until {{date.in7days}}.</p><p>Please call me if anything is unclear.</p>',
  },
  {
    kind: 'template',
    name: 'Is anything unclear?',
    folder: 'Offers',
    scope: 'all',
    html: '<p>Dear {{person.firstName|colleague}},</p><p>Could you look at our offer? If anything is unclear, one line is enough, and I call you.</p>',
  },
  {
    kind: 'template',
    name: 'Site visit',
    folder: 'Visits',
    scope: 'all',
    subject: 'Visit to {{account.name}}',
    html: '<p>Dear {{person.firstName|colleague}},</p><p>Before we size the gauges, we would like to see the site. Half a day is enough. Which day suits you?</p>',
  },
  {
    kind: 'template',
    name: 'Ortstermin',
    folder: 'Visits',
    scope: 'all',
    language: 'de',
    subject: 'Ortstermin bei {{account.name}}',
    html: '<p>Guten Tag {{person.name}},</p><p>bevor wir die Pegel auslegen, möchten wir den Standort sehen. Ein halber Tag genügt. Welcher Tag passt Ihnen?</p>',
  },
  {
    kind: 'block',
    name: 'Delivery terms',
    folder: 'Offers',
    scope: 'all',
    shortcut: 'terms',
    html: '<p>Delivery takes four weeks from the order. Prices are without tax and hold for thirty days.</p>',
  },
  {
    kind: 'article',
    name: 'Calibration of pressure gauges',
    folder: 'Technical',
    scope: 'all',
    html: '<p>Pressure gauges are calibrated once a year. The gauge stays in place; calibration takes half a day and needs a dry day.</p>',
  },
  {
    kind: 'article',
    name: 'Battery life of tide gauges',
    folder: 'Technical',
    scope: 'all',
    state: 'draft',
    html: '<p>With one reading in ten minutes the battery lasts for two years.</p>',
  },
];
