/** One turn of a conversation: who writes, how long after the turn before (hours), and paragraphs with alternatives. */
export interface Turn {
  by: 'them' | 'us';
  after: [number, number];
  text: string[][];
  attach?: string;
}

/** A kind of matter that customers and Quillmere write about. `{slots}` are filled once per conversation. */
export interface Topic {
  name: string;
  subjects: string[];
  /** True when the conversation can belong to a deal. */
  sale: boolean;
  turns: Turn[];
}

const them = (after: [number, number], ...text: string[][]): Turn => ({ by: 'them', after, text });
const us = (after: [number, number], ...text: string[][]): Turn => ({ by: 'us', after, text });
const withFile = (turn: Turn, attach: string): Turn => ({ ...turn, attach });

export const TOPICS: Topic[] = [
  {
    name: 'quote',
    sale: true,
    subjects: [
      'Quote for {qty} x {short}',
      '{instrument} for {station}',
      'Request for quotation: {short}, {site}',
      'Price for {qty} {short}',
    ],
    turns: [
      them(
        [0, 0],
        [
          'We plan to replace the level measurement at {station} this year and would like a quote for {qty} {instrument}.',
          'Could you let us have a price for {qty} pieces of the {instrument}? They are meant for {station} at {site}.',
          'Our old gauge at {station} was hit by a work boat, so we need {qty} {instrument} sooner than planned.',
          'After your talk in {month} we decided to go for the {instrument}. Please quote {qty} units for {site}.',
        ],
        [
          'Cable length would be about {metres} m, power is 24 V from the shore cabinet.',
          'We have {metres} m between the mast and the cabinet, so please include the long cable.',
          'Mains power is not available at the site; a solar panel and battery should be part of the offer.',
          'The mounting bracket from the earlier station can stay, I think. A photo is on its way.',
        ],
        [
          'Delivery before week {week} would be ideal, because the divers are booked then.',
          'Is week {week} realistic?',
          'Our budget closes at the end of {month2}, so an offer by then would help.',
          'Please note our new order address on the second page of the terms.',
        ],
      ),
      withFile(
        us(
          [3, 30],
          [
            'Thank you for asking. Please find our quote {order} attached: {qty} {instrument} at EUR {unit} each, together EUR {price}.',
            'Attached is quote {order} over EUR {price} for {qty} {instrument}, cable of {metres} m included.',
            'The offer for {station} is ready: EUR {price} for {qty} units, valid for sixty days. You find it attached as {order}.',
          ],
          [
            'With an order by the end of {month} we can ship in week {week}.',
            'Two units are on the shelf; the others come out of calibration in week {week}.',
            'Week {week} works if we get the order by the {day}th, because the radar heads have a lead time of four weeks.',
          ],
          [
            'The bracket of the older model fits, but the bolts do not; we put a set into the box.',
            'I took the stainless bracket instead of the galvanised one, as {station} stands in salt water.',
            'If you tell me the height above chart datum, our workshop sets the offset before shipping.',
            'For {station} I would look at the radar footprint first: it needs 1.2 m free to the wall.',
          ],
        ),
        '{order}.pdf',
      ),
      them(
        [10, 90],
        [
          'Thanks. Does the price include the factory calibration certificate, and for how many points?',
          'One question from our technician: can the logger keep its data when the modem is down for a week?',
          'The price is a little above what we had in mind. Is there room if we take the next {qty} as well?',
          'Before I pass it on: is the surge protection included, or do we order it extra?',
        ],
        ['Everything else is clear.', 'The rest fits well.', 'Otherwise we are happy with the offer.'],
      ),
      us(
        [2, 28],
        [
          'Yes: five points over the full range, with the certificate in the box and as a file.',
          'It keeps about fourteen months at ten-minute values, so a week without modem is no trouble.',
          'For both batches together I can go to EUR {price2}. The new figure is in the revised quote.',
          'Surge protection is part of the cabinet kit; without the kit it is EUR 140 a unit.',
        ],
        [
          'Do call me if you would rather talk it through: I am in the office until Thursday.',
          'Should I put the installation day into the offer too?',
          'Tell me which you prefer and I send the final version.',
        ],
      ),
      them(
        [20, 160],
        [
          'Approved. Our order number is {po}; please confirm the delivery in week {week}.',
          'The order is out with number {po}. Invoice to the address in the footer, please.',
          'Good news: the board signed it this morning. Order {po} comes by separate post.',
        ],
      ),
      us(
        [1, 20],
        [
          'Many thanks for order {po}. It is in production now and I will send the tracking as soon as it leaves.',
          'Received with thanks, {po} is booked for week {week}.',
          'Thank you. Our workshop has it, and you will hear from dispatch in week {week}.',
        ],
      ),
    ],
  },
  {
    name: 'tender',
    sale: true,
    subjects: ['Tender {tender}: level measurement {site}', 'Tender documents {tender}', '{site} monitoring network, lot 2'],
    turns: [
      withFile(
        them(
          [0, 0],
          [
            'Our tender {tender} for the level network at {site} is open until the {day}th of {month2}. You are welcome to take part.',
            'Please find enclosed the documents for tender {tender}: {qty} stations with {instrument} or equal, telemetry included.',
            'As announced, lot 2 of the {site} network is now being tendered under {tender}.',
          ],
          [
            'Questions have to be put in writing and are answered to all bidders.',
            'Site visits are possible on Tuesday and Wednesday of week {week}.',
            'Please mind the form for the references: three of similar size in the last five years.',
          ],
        ),
        '{tender}-specification.pdf',
      ),
      us(
        [8, 60],
        [
          'Thank you, we will bid. Two questions: is a radar gauge accepted for {station} where the specification says float, and who provides the mast?',
          'We read the specification with interest. Under 4.3 the accuracy is given as 1 mm: is that meant at one point or over the range?',
          'We would like to see {station} before we bid. Would Wednesday of week {week} suit you?',
        ],
      ),
      them(
        [12, 72],
        [
          'Radar is accepted. The mast is part of the civil works and not of this lot.',
          'One millimetre is meant at the datum point; over the range ten millimetres are enough. The answer goes to all bidders.',
          'Wednesday is fine: ten o’clock at the gate, helmets are there, boots please bring along.',
        ],
      ),
      withFile(
        us(
          [70, 240],
          [
            'Our bid for {tender} went into the portal this afternoon; the receipt is attached for your file.',
            'The bid is handed in: EUR {price} for {qty} stations with two years of service.',
            'Please find our complete bid attached, and the signed forms in the portal.',
          ],
          [
            'We offered the {instrument} throughout, so that one set of spares serves all stations.',
            'As an alternative we priced the bubbler gauge for {station}, in case the ice worries your colleagues.',
            'The delivery plan starts in week {week} and takes five weeks.',
          ],
        ),
        'bid-{tender}.pdf',
      ),
      them(
        [100, 400],
        [
          'The evaluation took longer than planned; we intend to award in week {week2}.',
          'May we ask you to explain position 7 of your price sheet? The sum differs from the summary.',
          'You are among the last two. Could you present the telemetry in week {week2}?',
        ],
      ),
      us(
        [5, 50],
        [
          'Of course: position 7 holds the spare batteries, and the summary had an older figure. The corrected sheet makes it EUR {price}.',
          'With pleasure. Two of us would come, and bring a running station in a suitcase.',
          'Thank you for letting us know; our prices hold until the end of {month2}.',
        ],
      ),
      them(
        [60, 300],
        [
          'I am glad to tell you that lot 2 goes to Quillmere. The letter follows; the standstill ends on the {day}th.',
          'The lot was awarded to another bidder on price. Your technical mark was the best of all, and I hope to see you in the next round.',
          'The board has postponed the project to next year. We keep your bid on file.',
        ],
      ),
    ],
  },
  {
    name: 'calibration',
    sale: false,
    subjects: ['Calibration of {serial}', 'Recalibration due: {short} at {station}', 'Certificate for {serial}'],
    turns: [
      them(
        [0, 0],
        [
          'The certificate of our {short} with serial {serial} ends in {month2}. What does a recalibration cost, and how long is the unit away?',
          'Our auditor asks for a new certificate for {serial} at {station}. Can you come to the site, or do we send it in?',
          'We compared {serial} with the staff at low water: it reads {mm} mm too high. Is that still within its class?',
        ],
        [
          'We have no spare, so every day without data hurts.',
          'A loan unit for the time would be welcome.',
          'The last one was done by you two years ago.',
        ],
      ),
      us(
        [3, 26],
        [
          'Recalibration with certificate is EUR 310 and takes four working days in our tank. A loan unit is free for customers with a service contract.',
          'With {mm} mm you are just outside. I suggest we take it in, look at the diaphragm and calibrate anew.',
          'On site we can check it against the travelling standard, but the certificate needs the tank here in the house.',
        ],
        [
          'Send it to the workshop with the note RMA-{rma} on the parcel.',
          'I booked the tank for you in week {week}; RMA-{rma} is the number for the parcel.',
        ],
      ),
      them(
        [8, 100],
        [
          'It left here today with RMA-{rma} on it. The cable stays on site.',
          'Good, we take the loan unit. Shipping address as always.',
          'Then week {week} it is.',
        ],
      ),
      withFile(
        us(
          [60, 200],
          [
            '{serial} is back from the tank: largest deviation 2 mm after adjustment, 11 mm as found. The certificate is attached.',
            'The work is done. As found it was {mm} mm off, which came from a scratched seal; it was replaced and calibrated.',
            'Your unit goes out this afternoon, certificate attached.',
          ],
        ),
        'certificate-{serial}.pdf',
      ),
      them(
        [6, 70],
        [
          'Received and mounted again, the values look right. Thank you for the quick work.',
          'Thanks. The auditor is happy, and so am I.',
          'It is back at {station} and follows the staff within a millimetre.',
        ],
      ),
    ],
  },
  {
    name: 'fault',
    sale: false,
    subjects: [
      'No data from {station} since {weekday}',
      'Fault: {short} {serial}',
      'Strange values at {station}',
      'Help with {short} please',
    ],
    turns: [
      them(
        [0, 0],
        [
          'Since {weekday} night we get no values from {station}. The modem answers, the logger does not.',
          'The {short} at {station} shows spikes of up to {metres} cm every time the ferry leaves.',
          'Our {serial} reports error 17 and restarts every ten minutes.',
          'After the storm {station} reads a constant {mm}. The cable looks fine from the pier.',
        ],
        [
          'High water is on the {day}th, until then we need it back.',
          'Battery voltage is 12.6, so that is not it.',
          'We switched it off and on, without luck.',
          'A photo of the display and the last log file are attached.',
        ],
      ),
      us(
        [1, 9],
        [
          'Error 17 is the memory card. Please open the cover, take the card out for a minute, and put it back until it clicks.',
          'That sounds like echoes from the hull. Under Filter, set the window to 30 s and the gate to 0.8 m: the spikes should go.',
          'Could you send the file status.txt from the logger? I suspect the clock battery.',
          'A constant value after a storm is often weed on the bubbler line. Purging it three times with 2 bar usually helps.',
        ],
        [
          'If it stays, I send a replacement tomorrow with the early courier.',
          'I am at the desk until six, do ring when you stand in front of it.',
          'Meanwhile the raw values are kept, so nothing is lost.',
        ],
      ),
      them(
        [2, 40],
        [
          'That did it. Values are back since {hour}:20, thank you!',
          'No change, I am afraid. The file is attached.',
          'It works, but the clock is two hours wrong now.',
          'The filter helped for the ferry, but not for the tugs.',
        ],
      ),
      us(
        [1, 12],
        [
          'Glad to hear it. I note it in your service file, so that we look at the card at the next visit.',
          'Thank you for the file: the main board is gone. A new one leaves today under RMA-{rma}, swap takes ten minutes.',
          'Set the time source to “network” under Clock; then it corrects itself within the hour.',
          'Then let us go to 45 s. For tides that costs you nothing.',
        ],
      ),
      them(
        [5, 60],
        [
          'All good now, the ticket can be closed.',
          'New board is in and it runs. The old one goes back to you tomorrow.',
          'Perfect. Thanks for staying late.',
        ],
      ),
    ],
  },
  {
    name: 'delivery',
    sale: true,
    subjects: ['Delivery date for order {po}', 'Order {po}: where does it stand?', 'Shipping of {po}'],
    turns: [
      them(
        [0, 0],
        [
          'When can we expect order {po}? The crane at {station} is booked for week {week}.',
          'According to your confirmation {po} should be here by now. Could you look into it?',
          'Could {po} be sent in two parts? We need {few} units in week {week}, the others can wait.',
        ],
        [
          'Please avoid Friday: the store closes at noon.',
          'The ship sails on the {day}th, after that we wait three weeks.',
          'The delivery address is the site office, not the head office.',
        ],
      ),
      us(
        [2, 20],
        [
          'I asked dispatch: {po} leaves on {weekday}, tracking follows.',
          'I am sorry, the housings came late from the anodiser. We now expect week {week}, and I ship by air at our cost.',
          'A part delivery is no problem: {few} go out on {weekday}, the rest in week {week2}.',
        ],
      ),
      them(
        [4, 50],
        [
          'Thank you, that fits. Please put the lifting plan into the box.',
          'Week {week} is late, but still possible if it is here on Monday.',
          'Good. The person at the gate is called {thirdName}, and a phone number helps the driver.',
        ],
      ),
      us(
        [12, 80],
        [
          'It left today in {few} boxes, together {kilos} kg. The tracking number is {tracking}.',
          'The driver announced himself for tomorrow between eight and ten. Tracking {tracking}.',
        ],
      ),
      them(
        [20, 120],
        [
          'Everything arrived in good order. Mounting starts on Monday.',
          'All there, but one bracket is bent. Could you send another?',
          'Received, thank you. The invoice may come.',
        ],
      ),
    ],
  },
  {
    name: 'data',
    sale: false,
    subjects: ['Export from {short} as CSV', 'Time zone of the values from {station}', 'Reading {short} into our database'],
    turns: [
      them(
        [0, 0],
        [
          'We read the {short} over Modbus and get the level in register 30, but without a sign. Is there a setting?',
          'Which time zone do the values from {station} have? In {month} they seem an hour off.',
          'Can the telemetry box push to our own server instead of yours? Our data people prefer that.',
        ],
        ['It is for the model that runs every six hours.', 'Not urgent, but our report is due at the end of {month2}.'],
      ),
      us(
        [2, 40],
        [
          'Values are always in UTC; your viewer adds the summer hour. In the export dialogue choose “as recorded”.',
          'Register 30 is the unsigned one, 31 has the signed value. I attach the register list of the new firmware.',
          'Yes: under Targets you can enter up to three servers. It speaks plain HTTPS with a token.',
        ],
      ),
      them(
        [3, 70],
        [
          'Thanks, that explains it. One more thing: what does status 4 mean in the last column?',
          'It works with 31. Could the list go into the manual?',
          'We receive the first values. What happens when our server is down for a day?',
        ],
      ),
      us(
        [2, 40],
        [
          'Status 4 means “interpolated”: the echo was lost for less than a minute.',
          'It is in the next edition, thank you for the hint.',
          'The box keeps them and sends in order when it can; after thirty days it begins to thin out.',
        ],
      ),
    ],
  },
  {
    name: 'visit',
    sale: true,
    subjects: ['Visit in week {week}', 'Site survey {station}', 'Meeting about {site}'],
    turns: [
      us(
        [0, 0],
        [
          'I will be near {site} in week {week} and would gladly stop by to look at {station} together.',
          'As we said on the phone: may I come on {weekday} the {day}th to look at where the {instrument} could go?',
          'My colleague {colleague} and I plan a round along the coast in week {week}. Would a visit suit you?',
        ],
        [
          'An hour is enough, boots I have with me.',
          'I would bring the demo case with the new telemetry box.',
          'It would help to have someone there with the key to the cabinet.',
        ],
      ),
      them(
        [4, 70],
        [
          '{weekday} works. Please register at the gate with your number plate.',
          'Week {week} is full with the survey. What about week {week2}?',
          'Gladly, our head of operations would like to join and see the numbers for a service contract.',
        ],
      ),
      us(
        [2, 30],
        [
          'Wonderful, then {weekday} at {hour}. The plate is QH 412.',
          'Week {week2} is fine too, I suggest {weekday} at {hour}.',
          'Very good. I bring the figures for two and for five years.',
        ],
      ),
      us(
        [90, 220],
        [
          'Thank you for the time today. As agreed I send a sketch for {station} and an offer for {qty} {short} by next week.',
          'It was good to see the site. Two points stayed open: the cable duct, and who clears the growth. I will come back on both.',
          'Many thanks for the tour. The photo with the heron is attached, as promised.',
        ],
      ),
      them(
        [10, 120],
        [
          'Thanks for coming. The duct is ours, the growth is yours, says the chief with a smile.',
          'Looking forward to the offer. Please put the five years in as an option.',
          'Thank you, the heron now hangs in the canteen.',
        ],
      ),
    ],
  },
  {
    name: 'invoice',
    sale: false,
    subjects: ['Invoice {invoice}', 'Question on invoice {invoice}', 'Reminder {invoice}'],
    turns: [
      them(
        [0, 0],
        [
          'Invoice {invoice} shows freight of EUR {freight}, but we had agreed on delivery free house.',
          'We cannot match {invoice} to an order. Could you give us the order number?',
          'Please send {invoice} again with our VAT number and the cost centre 4410.',
        ],
        ['Until then I keep it on hold.', 'Our system refuses it otherwise.', 'Payment goes out right after.'],
      ),
      us(
        [3, 48],
        [
          'You are right, the freight should not be there. A credit note over EUR {freight} is under way.',
          'It belongs to order {po} of {month}. I attach the delivery note with signature.',
          'Here it is again, with number and cost centre. Sorry for the trouble.',
        ],
      ),
      them([5, 90], ['Thank you, released for payment.', 'Found it, paid on the {day}th.', 'All fine now.']),
    ],
  },
  {
    name: 'service',
    sale: true,
    subjects: ['Service contract {site}', 'Yearly maintenance {year}', 'Renewal of the service contract'],
    turns: [
      us(
        [0, 0],
        [
          'Your service contract for {qty} stations ends in {month2}. I attach the renewal: EUR {price2} a year with two visits, unchanged for the third year.',
          'The yearly round at {site} is due. May I book week {week}, with the boat from our side?',
        ],
        ['New is that firmware updates over the air are part of it.', 'The wear parts for the {short} are included from this year.'],
      ),
      them(
        [10, 140],
        [
          'Please add {station}, which came in {month}, and send it again. The rest can stay.',
          'Could we change to one visit a year? Our own people do the cleaning by now.',
          'Week {week} suits. Boat is good, ours is in the yard.',
        ],
      ),
      us(
        [5, 60],
        [
          'With {station} added it comes to EUR {price}. The new version is attached.',
          'With one visit it is EUR {price2}. I would keep the spring visit, before the storms of autumn the growth does not matter.',
          'Booked. {colleague} and one technician will be with you.',
        ],
      ),
      them([15, 200], ['Signed and on its way back.', 'Agreed, please send the order form.', 'Thank you. Keys are at the lock keeper’s.']),
    ],
  },
  {
    name: 'partnership',
    sale: true,
    subjects: ['Reseller price list {year}', 'End customer {site}: {short}', 'Project {site} through us'],
    turns: [
      them(
        [0, 0],
        [
          'A customer of ours, {site}, asks for {qty} {short} with telemetry. Can you hold the project price of last year?',
          'We have an end customer at {site} who compares you with a cheaper sensor. Any arguments beyond the price?',
          'Please register the project {site} for us: {qty} x {instrument}, decision in {month2}.',
        ],
      ),
      us(
        [3, 40],
        [
          'Registered, with 18 % for you until the end of {month2}.',
          'The cheaper one has no temperature compensation: at {site} that is 4 cm over a summer day. I attach a comparison we once did in a tank.',
          'The project price holds if the order comes before week {week}.',
        ],
      ),
      them(
        [10, 150],
        [
          'That helped, they want to see one running. Do you have a demo unit for two weeks?',
          'They take yours. Order {po} follows from our office.',
          'It became quiet there. I ask again after the holidays.',
        ],
      ),
      us(
        [2, 40],
        [
          'The demo case goes out on {weekday}, please send it back by week {week2}.',
          'Great work. I see that the two units with the long cable are ready first.',
          'Fine, I keep the registration open until then.',
        ],
      ),
    ],
  },
];

export const INTERNAL = [
  ['Canteen closed on {weekday}', 'The kitchen gets its new floor, so there are sandwiches in the hall instead.'],
  ['Stock of {short}', 'We are down to {few} pieces. Please check with the workshop before you promise week {week}.'],
  ['Forecast for {month2}', 'Please put your numbers into the sheet by {weekday}; blank cells I will read as zero.'],
  [
    'Trade fair: who comes?',
    'The stand is booked. I need two people for {weekday} and someone who can explain the bubbler without a whiteboard.',
  ],
  ['Firmware 4.2 for the {short}', 'Released this morning. It cures error 17; customers with the old card should update first.'],
  ['Price list', 'From the first of {month2} the long cables cost six per cent more. The quotes that are out stay as they are.'],
  ['{site}: heads up', 'They rang about the delivery. I said week {week}; please do not say anything else.'],
  ['Car keys', 'Whoever has the key of the van with the davit: it is needed on {weekday} at seven.'],
  ['Holiday plan', 'I am away in week {week}, {colleague} looks after my customers.'],
  ['Notes from the sales round', 'Three points: the tender at {site}, the late housings, and who answers sales@ on Fridays.'],
];

export const NEWSLETTERS = [
  [
    'Coastal Measuring Monthly',
    'news@coastal-measuring.example',
    'This month: five ways to keep barnacles off a stilling well, a portrait of a lock keeper, and the fairs of autumn.',
  ],
  [
    'Harbour World Digest',
    'digest@harbour-world.example',
    'Quay walls that listen, a new dredger for the north, and why the tide tables were wrong in one village.',
  ],
  [
    'Component Offers',
    'offers@sensor-parts.example',
    'Connectors IP68 from 1.90, stainless brackets in all sizes, and ten per cent on cable drums until Sunday.',
  ],
  [
    'Water & Data',
    'letter@water-and-data.example',
    'How a small water board halved its night losses. Also: an interview on open telemetry.',
  ],
];

export const NOTICES = [
  [
    'Your parcel {tracking} is on its way',
    'no-reply@swiftcrate.example',
    'Your parcel {tracking} was handed to the driver and arrives {weekday} before 18:00.',
  ],
  [
    'Backup finished',
    'notifications@cloudshelf.example',
    'The nightly backup of folder Projects finished without errors. 4,812 files were looked at.',
  ],
  [
    'Ticket #{rma} was updated',
    'noreply@desk.gullhaven-port.example',
    'A comment was added to ticket #{rma}: “Reading at the pilot jetty confirmed.”',
  ],
  ['Room booking confirmed', 'no-reply@rooms.quillhouse.example', 'Room Sextant is booked for you on {weekday} from {hour}:00.'],
];

export const PRIVATE = [
  [
    'Your appointment on {weekday}',
    'reception@dr-molar.example',
    'Reception Dr Molar',
    'This is to remind you of your appointment on {weekday} at {hour}:30. Please bring your card, and do not eat for an hour after.',
  ],
  [
    'Class trip, form 4b',
    'office@larkfield-school.example',
    'Larkfield School',
    'We still miss the signed form for the class trip on the {day}th. Rain clothes and a packed lunch are enough.',
  ],
  [
    'A position that could interest you',
    'quentin.ferrow@talentbridge.example',
    'Quentin Ferrow',
    'Your profile fits a role as head of sales in measuring technology, with a car and a view of the sea. May I call you?',
  ],
  [
    'Choir on {weekday}',
    'vilde@song-by-the-water.example',
    'Vilde',
    'We sing at {hour} in the old boathouse. The tenors please learn page 12, the basses please learn to count.',
  ],
];
