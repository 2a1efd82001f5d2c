const list = (text: string): string[] => text.trim().split(/\s*,\s*/);

export const GIVEN =
  list(`Aino, Alva, Amara, Anselm, Ayo, Bahar, Benedek, Birgit, Bram, Chiara, Dagny, Darius, Edda, Eleni, Emeka, Esra, Farid, Finn, Gala, Goran, Hanne, Haruto, Ilse, Imani,
  Ines, Ivo, Jana, Jorun, Kaia, Kamil, Kofi, Lamia, Leif, Liv, Lucan, Maelis, Malik, Marit, Mira, Nadir, Naoki, Nell, Nuno, Odile, Olu, Oskar, Petra, Quirin, Rafaela, Ravi, Renske, Runa, Sade, Samir,
  Selma, Signe, Sorin, Suvi, Tala, Teo, Thora, Tomas, Ulla, Vasil, Vera, Wanja, Wim, Xenia, Yara, Yusuf, Zofia, Zora, Arvid, Bela, Corin, Dorian, Elif, Femke, Gita, Halvar`);

export const FAMILY =
  list(`Aldring, Amsel, Arkady, Bakkesund, Balogh, Barrowfen, Bexley-Oh, Brandur, Calloway, Castellane, Chukwura, Dahlvik, Delacrest, Demiral, Drummel, Eidsmark, Ekberg-Lund, Farouz, Fenwhistle,
  Ferreiro, Galvani, Greenhythe, Grimsund, Hallowick, Harkonsen, Hashida, Ilvesky, Iversund, Jankovar, Kallinen, Karimov, Kestrelmann, Kolbeck, Kvistgaard, Lachance, Lindqvara, Lomax-Adu, Marchetta, Mbekwe, Meridew,
  Moorcrest, Nakagiri, Nordhavn, Obermoor, Okonjira, Olafsen-Ray, Orsolic, Pellworm, Petrossa, Quarrington, Quistrup, Raskolny, Riedwasser, Rosenhagel, Saltmarsh, Santorell, Schellfish, Sigurdal, Sorrelby, Strandvik,
  Szalay, Tamm-Vesk, Thorngate, Tideswell, Ulvang, Umarov, Vanterpool, Varga-Lind, Vesterhus, Wattenmeer, Weaverham, Winterbourne-Osei, Yilmazer, Zandvoorde, Zelenko, Ansgarden, Bluntisham, Corvane, Duskfell, Elvetham`);

export const PLACES =
  list(`Oriel, Marrow Bay, Kestrel Sound, Vardholm, Saltmere, Tessaly Firth, Brine Point, Gullhaven, Norrsund, Pelworth, Aldermouth, Cinder Quay, Drumlin, Eastwick Roads, Fennimoor, Greyling, Halvorsund, Isenfleet,
  Jarrow Skerry, Kelpness, Lantern Cove, Merrowgate, Nethersea, Osprey Narrows, Port Quillon, Ravelstrand, Sable Reach, Thrale Island, Ullensund, Vellan Head, Whitstrand, Yarrowmouth, Zanderby, Amberlock, Birchwater, Corrach, Dunemark,
  Ebbing Vale, Farrowmere, Gannet Ness`);

export const STATIONS =
  list(`the outer mole, pier 4, the lock chamber, the fairway buoy, the east weir, the pumping station, the fish ladder, the spillway, the old ferry berth, the tidal barrier, the dredge channel, the intake screen, cage row C,
  the north breakwater, the pilot jetty, the storm gate, the culvert at mile 12, the river mouth, the upper reservoir, the bridge at the mill, the container quay, the slipway, the settling basin, the reef marker`);

export const INSTRUMENTS = [
  { name: 'radar tide gauge TG-40', short: 'TG-40', unit: 4850 },
  { name: 'bubbler gauge BG-12', short: 'BG-12', unit: 3120 },
  { name: 'river-level sensor RL-7', short: 'RL-7', unit: 1290 },
  { name: 'buoy logger BL-3', short: 'BL-3', unit: 2240 },
  { name: 'pressure transducer PT-9', short: 'PT-9', unit: 860 },
  { name: 'wave staff WS-2', short: 'WS-2', unit: 1980 },
  { name: 'telemetry box TX-5', short: 'TX-5', unit: 1440 },
  { name: 'salinity probe SP-1', short: 'SP-1', unit: 990 },
] as const;

export const TITLES =
  list(`Harbour Engineer, Head of Hydrology, Procurement Officer, Survey Manager, Operations Manager, Site Supervisor, Research Fellow, Instrument Technician, Project Engineer, Purchasing Manager, Data Manager, Deputy Harbour Master,
  Maintenance Planner, Field Coordinator, Chief Hydrographer, Environmental Officer, Managing Director, Laboratory Manager`);

export const KINDS = [
  { suffix: 'Harbour Authority', tail: 'harbour', type: 'harbour authority' },
  { suffix: 'Water Board', tail: 'water', type: 'water board' },
  { suffix: 'Sea Farms', tail: 'seafarms', type: 'fish farm' },
  { suffix: 'Dredging', tail: 'dredging', type: 'dredging contractor' },
  { suffix: 'Coastal Institute', tail: 'institute', type: 'research institute' },
  { suffix: 'Port Company', tail: 'port', type: 'harbour authority' },
  { suffix: 'River Trust', tail: 'river', type: 'water board' },
  { suffix: 'Instrument Supply', tail: 'supply', type: 'reseller' },
] as const;
