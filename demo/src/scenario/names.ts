/** Invented names, from which the generator draws. */
export const canals = [
  ['Wend Cut', '1793-05-01', '41.20', '1.40', false],
  ['Lowmere Main Line', '1801-09-14', '88.75', '1.85', false],
  ['Heron Level', '1811-03-30', '26.40', '1.30', false],
  ['Saltreed Arm', '1824-07-02', '12.10', '2.60', true],
  ['Quillmarsh Branch', '1832-10-19', '19.85', '1.25', false],
  ['Étang des Joncs', '1838-06-11', '33.00', '1.50', false],
  ['Tarrow Navigation', '1846-04-27', '54.60', '1.70', false],
  ['Ostle Deep', '1877-08-08', '8.35', '3.10', true],
] as const;

export const lockFirst = [
  'Alder', 'Bittern', 'Candle', 'Drover’s', 'Eel Pie', 'Fallow', 'Gannet', 'Hollow', 'Inkwell',
  'Jackdaw', 'Kettle', 'Lantern', 'Millwright’s', 'Nettle', 'Osier', 'Parson’s', 'Quern', 'Rush',
  'Sedge', 'Tallow', 'Upper Wend', 'Vesper', 'Withy', 'Yarrow',
] as const;

export const lockSecond = ['Lock', 'Gate', 'Staircase', 'Basin Lock', 'Top Lock', 'Stop'] as const;

export const givenNames = [
  'Ada', 'Bram', 'Céleste', 'Dragoș', 'Edda', 'Fenna', 'Gösta', 'Hanne', 'Ilse', 'Joaquín', 'Kálmán',
  'Łucja', 'Maëlle', 'Nuño', 'Oddný', 'Perpetua', 'Quirin', 'Rosa', 'Søren', 'Tamsin', 'Ulla',
  'Vasilisa', 'Wim', 'Ximena', 'Yorick', 'Zoë', 'Ασπασία', 'Ярина', '美咲', '晓明', 'ليلى', 'נועה',
] as const;

export const familyNames = [
  'Ashgrove', 'Brännlund', 'Castellanos', "D'Arcy-Vale", 'Eskildsen', 'Fjord', 'Grünwald', 'Hollis',
  'Ingersen', 'Järvelä', 'Kowalczyk', 'Lindqvist', 'Mac Tíre', 'Nieuwland', "O'Dowd", 'Pöschl',
  'Quayle', 'Rådström', 'Șerban', 'Tideswell', 'Underhill', 'Vörös', 'Wetherby', 'Yılmaz', 'Żuraw',
  'Δήμου', 'Вершина', '水野', '江', 'الجسر',
] as const;

export const towns = [
  'Lowmere', 'Wendham', 'Heron Quay', 'Saltreed', 'Quillmarsh', 'Tarrow Bridge', 'Ostle', 'Joncs-sur-Étang',
  'Nether Sluice', 'Three Gates', 'Mallow End', 'Kingsreach',
] as const;

export const boatAdjectives = [
  'Amber', 'Brave', 'Crooked', 'Drowsy', 'Early', 'Faithful', 'Grey', 'Honest', 'Idle', 'Jolly', 'Kind',
  'Late', 'Merry', 'Northern', 'Old', 'Patient', 'Quiet', 'Restless', 'Silver', 'Tin', 'Unlikely',
  'Velvet', 'Wandering', 'Young',
] as const;

export const boatNouns = [
  'Heron', 'Kingfisher', 'Otter', 'Moorhen', 'Pike', 'Teasel', 'Lantern', 'Compass', 'Button', 'Almanac',
  'Marigold', 'Thimble', 'Badger', 'Étoile', 'Ærø', 'Ökotie', 'Ладья', 'かわせみ', 'Windlass', 'Meander',
  'Tuesday', 'Penny', 'Sparrow', 'Juniper', 'Fiddle', 'Harvest',
] as const;

export const notes = [
  'Gate slow to open',
  'Paddle gear greased',
  'Toll paid in cash',
  'Waited for the convoy behind',
  'Keeper relieved at noon',
  '"Mind the cill" repeated twice',
  'Discount of 10% granted',
  'Discount of 25% granted, see ledger',
  "Skipper's papers not at hand",
  'Fender lost; 100% sure it sank',
  'Heron on the upper gate, would not move',
  'Reed cutting on the north bank',
  'Level_low, crept over the cill',
  'C:\\log\\lock: sensor 4 dead',
  'Señal roja hasta las 9',
  'Dog overboard, recovered',
  'Ice, thin',
  'Ran aground below the bridge 🛶',
  'Chamber shared with two others',
  'Toll disputed: “too dear”',
] as const;
