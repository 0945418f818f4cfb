// Made from the code by `./tough-start docs`: the survey document as scripts see it.

/** Fields that a merge names by themselves. */
export const mergedFields = ["vehicle", "history", "goal", "site", "shelf", "kit", "lean", "stockOnly", "declines", "crew"] as const;

export const SurveyFormat = ["toughstart.survey/1"] as const;
export type SurveyFormat = (typeof SurveyFormat)[number];

export const VehicleForm = [
  "city-hatch",
  "hatchback",
  "saloon",
  "estate",
  "coupe",
  "suv",
  "pickup",
  "panel-van",
  "minibus",
  "motorcycle",
] as const;
export type VehicleForm = (typeof VehicleForm)[number];

export const VehicleSoftness = ["soft", "medium", "hard", "unknown"] as const;
export type VehicleSoftness = (typeof VehicleSoftness)[number];

export const VehiclePowertrain = ["combustion", "hybrid", "electric"] as const;
export type VehiclePowertrain = (typeof VehiclePowertrain)[number];

export const VehicleSheet = ["steel", "aluminium"] as const;
export type VehicleSheet = (typeof VehicleSheet)[number];

export interface Vehicle {
  form: VehicleForm;
  lengthMm: number;
  widthMm: number;
  heightMm: number;
  colour?: string;
  softness: VehicleSoftness;
  powertrain: VehiclePowertrain;
  sheet?: VehicleSheet;
  hotEngine?: boolean;
  [key: `x-${string}`]: unknown;
}
export const VehicleLimits = {
  lengthMm: [1400, 9000],
  widthMm: [400, 2800],
  heightMm: [700, 3500],
} as const;

export const HistoryFlood = ["none", "fresh", "sea", "sewage", "unknown", "not-said"] as const;
export type HistoryFlood = (typeof HistoryFlood)[number];

export const HistoryStorage = ["indoors", "outdoors", "cover"] as const;
export type HistoryStorage = (typeof HistoryStorage)[number];

export const HistoryUse = ["daily", "motorway", "towing", "farm", "track", "site", "stored"] as const;
export type HistoryUse = (typeof HistoryUse)[number];

export const HistoryRegion = ["coast", "city", "rural", "industrial", "rail"] as const;
export type HistoryRegion = (typeof HistoryRegion)[number];

export const HistoryBrakeDust = ["modern", "unknown"] as const;
export type HistoryBrakeDust = (typeof HistoryBrakeDust)[number];

export const ReleaseHold = ["flood-hygiene", "flood-workshop", "high-voltage", "nests", "biological", "brake-dust"] as const;
export type ReleaseHold = (typeof ReleaseHold)[number];

export interface Release {
  hold: ReleaseHold;
  by: string;
  on?: string;
  [key: `x-${string}`]: unknown;
}

export interface History {
  flood: HistoryFlood;
  nests: boolean;
  monthsSinceWash?: number;
  storage?: HistoryStorage;
  use?: HistoryUse;
  region?: HistoryRegion;
  coatedMonths?: number;
  brakeDust?: HistoryBrakeDust;
  biological?: boolean;
  releases?: Release[];
  [key: `x-${string}`]: unknown;
}
export const HistoryLimits = {
  monthsSinceWash: [0, 600],
  coatedMonths: [0, 240],
} as const;

export const SurveyGoal = ["wash", "sale", "protect", "correct"] as const;
export type SurveyGoal = (typeof SurveyGoal)[number];

export const SitePlace = ["indoors", "shade", "outdoors"] as const;
export type SitePlace = (typeof SitePlace)[number];

export const SiteWindAt = ["forecast10m", "panel"] as const;
export type SiteWindAt = (typeof SiteWindAt)[number];

export const SiteWater = ["hose", "tank", "none"] as const;
export type SiteWater = (typeof SiteWater)[number];

export const SiteGround = ["tarmac", "new-concrete", "concrete", "block-paving", "gravel", "grass"] as const;
export type SiteGround = (typeof SiteGround)[number];

export const SiteDrain = ["foul", "interceptor", "storm", "soakaway", "unknown"] as const;
export type SiteDrain = (typeof SiteDrain)[number];

export interface ShadeObject {
  bearingDeg: number;
  distanceM: number;
  widthM: number;
  heightM: number;
  [key: `x-${string}`]: unknown;
}
export const ShadeObjectLimits = {
  bearingDeg: [0, 360],
  distanceM: [0.5, 200],
  widthM: [0.2, 500],
  heightM: [0.5, 200],
} as const;

export const SiteSlope = ["level", "slight", "steep"] as const;
export type SiteSlope = (typeof SiteSlope)[number];

export const SitePower = ["protected", "unprotected", "none"] as const;
export type SitePower = (typeof SitePower)[number];

export const SiteAccess = ["platform", "ladder", "none"] as const;
export type SiteAccess = (typeof SiteAccess)[number];

export interface WeatherHour {
  at: string;
  airC: number;
  humidityPct: number;
  windMs: number;
  cloudOktas: number;
  rainMm: number;
  [key: `x-${string}`]: unknown;
}
export const WeatherHourLimits = {
  airC: [-40, 60],
  humidityPct: [0, 100],
  windMs: [0, 60],
  cloudOktas: [0, 8],
  rainMm: [0, 200],
} as const;

export interface Site {
  place?: SitePlace;
  sunBlocked?: number;
  skyOpen?: number;
  latitude?: number;
  longitude?: number;
  timeZone?: string;
  headingDeg?: number;
  start?: string;
  airC?: number;
  humidityPct?: number;
  windMs?: number;
  windAt?: SiteWindAt;
  cloudOktas?: number;
  water?: SiteWater;
  waterHardnessMgL?: number;
  ground?: SiteGround;
  drain?: SiteDrain;
  shadeHours?: number[][];
  shadeObjects?: ShadeObject[];
  slope?: SiteSlope;
  power?: SitePower;
  neighboursClose?: boolean;
  access?: SiteAccess;
  extraction?: boolean;
  hours?: WeatherHour[];
  [key: `x-${string}`]: unknown;
}
export const SiteLimits = {
  sunBlocked: [0, 1],
  skyOpen: [0, 1],
  latitude: [-90, 90],
  longitude: [-180, 180],
  headingDeg: [0, 360],
  airC: [-30, 55],
  humidityPct: [1, 100],
  windMs: [0, 40],
  cloudOktas: [0, 8],
  waterHardnessMgL: [0, 2000],
} as const;
export const SiteMost = {
  shadeObjects: 20,
  hours: 240,
} as const;

export const HouseFirstLiquid = ["water", "chemistry"] as const;
export type HouseFirstLiquid = (typeof HouseFirstLiquid)[number];

export const HouseFoam = ["when-needed", "optional", "always"] as const;
export type HouseFoam = (typeof HouseFoam)[number];

export const HouseRinseFoamBeforeContact = ["true", "false", true, false] as const;
export type HouseRinseFoamBeforeContact = (typeof HouseRinseFoamBeforeContact)[number];

export const HouseWheels = ["first", "during-foam", "after-prewash", "with-prewash"] as const;
export type HouseWheels = (typeof HouseWheels)[number];

export const HouseWashMedia = ["two-bucket", "mitt-per-area", "one-rinse-bucket", "fresh-foam", "rinseless", "waterless"] as const;
export type HouseWashMedia = (typeof HouseWashMedia)[number];

export const HouseWaterlessOnHeavy = ["refuse", "warn"] as const;
export type HouseWaterlessOnHeavy = (typeof HouseWaterlessOnHeavy)[number];

export const HouseIron = ["after-wash", "foam-then-spot", "with-clay"] as const;
export type HouseIron = (typeof HouseIron)[number];

export const HouseTarIron = ["tar-first", "iron-first"] as const;
export type HouseTarIron = (typeof HouseTarIron)[number];

export const HouseIronCoverage = ["spritz", "low", "all"] as const;
export type HouseIronCoverage = (typeof HouseIronCoverage)[number];

export const HouseClay = ["if-rough", "always"] as const;
export type HouseClay = (typeof HouseClay)[number];

export const HouseMarring = ["counts", "cheap-if-polishing"] as const;
export type HouseMarring = (typeof HouseMarring)[number];

export const HouseStrongChemistry = ["limited", "neutral-only"] as const;
export type HouseStrongChemistry = (typeof HouseStrongChemistry)[number];

export const HouseApcOnBugs = ["last", "presoak"] as const;
export type HouseApcOnBugs = (typeof HouseApcOnBugs)[number];

export const HousePrewashDwell = ["window", "rinse-at-once"] as const;
export type HousePrewashDwell = (typeof HousePrewashDwell)[number];

export const HouseOldProtection = ["by-goal", "strip-at-wash", "strip-before-correction"] as const;
export type HouseOldProtection = (typeof HouseOldProtection)[number];

export const HouseDryOut = ["never", "rewet"] as const;
export type HouseDryOut = (typeof HouseDryOut)[number];

export const HouseClayLubricant = ["rinseless", "shampoo", "iron-remover"] as const;
export type HouseClayLubricant = (typeof HouseClayLubricant)[number];

export const HouseDrying = ["blot", "blade-glass", "aid"] as const;
export type HouseDrying = (typeof HouseDrying)[number];

export const HouseTyres = ["none", "satin", "gloss"] as const;
export type HouseTyres = (typeof HouseTyres)[number];

export interface House {
  firstLiquid?: HouseFirstLiquid;
  foam?: HouseFoam;
  rinseFoamBeforeContact?: HouseRinseFoamBeforeContact;
  wheels?: HouseWheels;
  washMedia?: HouseWashMedia;
  waterlessOnHeavy?: HouseWaterlessOnHeavy;
  iron?: HouseIron;
  tarIron?: HouseTarIron;
  ironCoverage?: HouseIronCoverage;
  clay?: HouseClay;
  marring?: HouseMarring;
  strongChemistry?: HouseStrongChemistry;
  apcOnBugs?: HouseApcOnBugs;
  prewashDwell?: HousePrewashDwell;
  oldProtection?: HouseOldProtection;
  dryOut?: HouseDryOut;
  clayLubricant?: HouseClayLubricant;
  drying?: HouseDrying;
  tyres?: HouseTyres;
  [key: `x-${string}`]: unknown;
}

export const SurveyShelf1 = ["all-classes"] as const;
export type SurveyShelf1 = (typeof SurveyShelf1)[number];

export const BottleAgent = [
  "water",
  "rinseless",
  "waterless",
  "neutral-shampoo",
  "matte-soap",
  "strip-shampoo",
  "strip-foam",
  "neutral-foam",
  "alkaline-foam",
  "wash-foam",
  "iron-foam",
  "neutral-prewash",
  "citrus-prewash",
  "tfr",
  "apc",
  "degreaser",
  "bug-remover",
  "wheel-neutral",
  "wheel-acid",
  "iron-remover",
  "tar-remover",
  "spot-acid",
  "alcohol-wipe",
  "chain-cleaner",
  "lubricant",
] as const;
export type BottleAgent = (typeof BottleAgent)[number];

export const BottleCarrier = ["film", "foam", "gel", "cloth"] as const;
export type BottleCarrier = (typeof BottleCarrier)[number];

export const BottleHazards = [
  "H224",
  "H225",
  "H226",
  "H290",
  "H300",
  "H301",
  "H302",
  "H304",
  "H310",
  "H311",
  "H312",
  "H314",
  "H315",
  "H317",
  "H318",
  "H319",
  "H330",
  "H331",
  "H332",
  "H334",
  "H335",
  "H336",
  "H351",
  "H361",
  "H373",
  "H400",
  "H410",
  "H411",
  "H412",
] as const;
export type BottleHazards = (typeof BottleHazards)[number];

export const BottleAllows = [
  "clear-coat",
  "single-stage",
  "matte-paint",
  "gloss-film",
  "matte-film",
  "vinyl-wrap",
  "fresh-refinish",
  "glass",
  "coated-glass",
  "polycarbonate",
  "textured-plastic",
  "gloss-plastic",
  "rubber-seal",
  "painted-shut",
  "chrome",
  "bare-aluminium",
  "anodised-aluminium",
  "stainless",
  "painted-wheel",
  "diamond-cut-wheel",
  "powder-coated-wheel",
  "bare-alloy-wheel",
  "steel-wheel",
  "chrome-wheel",
  "tyre-sidewall",
  "liner-plastic",
  "liner-carpet",
  "fabric-hood",
  "painted-casting",
  "chain",
  "brake-disc",
] as const;
export type BottleAllows = (typeof BottleAllows)[number];

export const BottleForbids = [
  "clear-coat",
  "single-stage",
  "matte-paint",
  "gloss-film",
  "matte-film",
  "vinyl-wrap",
  "fresh-refinish",
  "glass",
  "coated-glass",
  "polycarbonate",
  "textured-plastic",
  "gloss-plastic",
  "rubber-seal",
  "painted-shut",
  "chrome",
  "bare-aluminium",
  "anodised-aluminium",
  "stainless",
  "painted-wheel",
  "diamond-cut-wheel",
  "powder-coated-wheel",
  "bare-alloy-wheel",
  "steel-wheel",
  "chrome-wheel",
  "tyre-sidewall",
  "liner-plastic",
  "liner-carpet",
  "fabric-hood",
  "painted-casting",
  "chain",
  "brake-disc",
] as const;
export type BottleForbids = (typeof BottleForbids)[number];

export interface Bottle {
  agent: BottleAgent;
  id?: string;
  name?: string;
  dataSheet: boolean;
  ph?: number;
  neatPh?: number;
  low?: number;
  reference?: number;
  high?: number;
  dwellMinutes?: number;
  maxDwellMinutes?: number;
  carrier?: BottleCarrier;
  pricePerLitre?: number;
  stockMl?: number;
  efficacy?: number;
  hazards?: BottleHazards[];
  allows?: BottleAllows[];
  forbids?: BottleForbids[];
  fluoride?: boolean;
  [key: `x-${string}`]: unknown;
}
export const BottleLimits = {
  ph: [0, 14],
  neatPh: [0, 14],
  low: [0.0001, 1],
  reference: [0.0001, 1],
  high: [0.0001, 1],
  dwellMinutes: [0, 60],
  maxDwellMinutes: [0, 60],
  pricePerLitre: [0, 10000],
  stockMl: [0, 10000000],
  efficacy: [0.3, 3],
} as const;

export interface Lance {
  draw: number;
  low: number;
  high: number;
  trials: number;
  [key: `x-${string}`]: unknown;
}
export const LanceLimits = {
  draw: [0.001, 1],
  low: [0.0001, 1],
  high: [0.0001, 1],
  trials: [0, 100],
} as const;

export const LeftoverAgent = [
  "water",
  "rinseless",
  "waterless",
  "neutral-shampoo",
  "matte-soap",
  "strip-shampoo",
  "strip-foam",
  "neutral-foam",
  "alkaline-foam",
  "wash-foam",
  "iron-foam",
  "neutral-prewash",
  "citrus-prewash",
  "tfr",
  "apc",
  "degreaser",
  "bug-remover",
  "wheel-neutral",
  "wheel-acid",
  "iron-remover",
  "tar-remover",
  "spot-acid",
  "alcohol-wipe",
  "chain-cleaner",
  "lubricant",
] as const;
export type LeftoverAgent = (typeof LeftoverAgent)[number];

export interface Leftover {
  agent: LeftoverAgent;
  strength: number;
  ml: number;
  bottle: string;
  [key: `x-${string}`]: unknown;
}
export const LeftoverLimits = {
  strength: [0.0001, 1],
  ml: [0, 200000],
} as const;

export interface Kit {
  lance?: Lance;
  filmFactor?: number;
  mitts?: number;
  towels?: number;
  applyM2Min?: number;
  rinseM2Min?: number;
  leftovers?: Leftover[];
  [key: `x-${string}`]: unknown;
}
export const KitLimits = {
  filmFactor: [0.2, 5],
  mitts: [0, 999],
  towels: [0, 999],
  applyM2Min: [0.2, 60],
  rinseM2Min: [0.2, 60],
} as const;

export interface Leaning {
  harm: number;
  time: number;
  money: number;
  [key: `x-${string}`]: unknown;
}
export const LeaningLimits = {
  harm: [0.05, 20],
  time: [0.05, 20],
  money: [0.05, 20],
} as const;

export const DeclineTreatment = [
  "pick",
  "soak-rinse",
  "hose-soak",
  "rinse",
  "long-rinse",
  "wheel-rinse",
  "drop-soak",
  "sap-soak",
  "bug-soak",
  "bug-mesh",
  "bug-cloth",
  "spray-neutral",
  "spray-citrus",
  "spray-tfr",
  "spray-apc",
  "foam-neutral",
  "foam-alkaline",
  "foam-iron",
  "crevice-soft",
  "crevice-apc",
  "tyre-brush",
  "tyre-apc",
  "tyre-soap",
  "wheel-brush",
  "wheel-wash",
  "chain-brush",
  "wash-2bucket",
  "wash-mitt",
  "wash-sponge",
  "wash-foam",
  "wash-matte",
  "wash-strip",
  "wash-rinseless",
  "wash-waterless",
  "tar-spot",
  "iron-spray",
  "wheel-iron",
  "flush",
  "mineral-spot",
  "wheel-acid",
  "alcohol-spot",
  "re-wash",
  "wheel-flush",
  "clay-bar-fine",
  "clay-bar-medium",
  "clay-mitt-fine",
  "clay-mitt-medium",
  "clay-pad-fine",
  "clay-pad-medium",
  "strip-foam",
  "strip-wash",
  "panel-wipe",
] as const;
export type DeclineTreatment = (typeof DeclineTreatment)[number];

export const DeclineStage = [
  "dry-pick",
  "soak",
  "pre-rinse",
  "spot",
  "pre-wash",
  "foam",
  "crevice",
  "wheels",
  "tyres",
  "arches",
  "contact-wash",
  "tar",
  "iron",
  "rinse",
  "acid",
  "re-wash",
  "clay",
  "strip",
  "wipe",
] as const;
export type DeclineStage = (typeof DeclineStage)[number];

export interface Decline {
  treatment?: DeclineTreatment;
  stage?: DeclineStage;
  zones?: string[];
  [key: `x-${string}`]: unknown;
}

export const ZoneSurface = [
  "clear-coat",
  "single-stage",
  "matte-paint",
  "gloss-film",
  "matte-film",
  "vinyl-wrap",
  "fresh-refinish",
  "glass",
  "coated-glass",
  "polycarbonate",
  "textured-plastic",
  "gloss-plastic",
  "rubber-seal",
  "painted-shut",
  "chrome",
  "bare-aluminium",
  "anodised-aluminium",
  "stainless",
  "painted-wheel",
  "diamond-cut-wheel",
  "powder-coated-wheel",
  "bare-alloy-wheel",
  "steel-wheel",
  "chrome-wheel",
  "tyre-sidewall",
  "liner-plastic",
  "liner-carpet",
  "fabric-hood",
  "painted-casting",
  "chain",
  "brake-disc",
  "unknown",
] as const;
export type ZoneSurface = (typeof ZoneSurface)[number];

export const ZoneParts = [
  "clear-coat",
  "single-stage",
  "matte-paint",
  "gloss-film",
  "matte-film",
  "vinyl-wrap",
  "fresh-refinish",
  "glass",
  "coated-glass",
  "polycarbonate",
  "textured-plastic",
  "gloss-plastic",
  "rubber-seal",
  "painted-shut",
  "chrome",
  "bare-aluminium",
  "anodised-aluminium",
  "stainless",
  "painted-wheel",
  "diamond-cut-wheel",
  "powder-coated-wheel",
  "bare-alloy-wheel",
  "steel-wheel",
  "chrome-wheel",
  "tyre-sidewall",
  "liner-plastic",
  "liner-carpet",
  "fabric-hood",
  "painted-casting",
  "chain",
  "brake-disc",
] as const;
export type ZoneParts = (typeof ZoneParts)[number];

export const ZoneGoal = ["wash", "sale", "protect", "correct", "leave-alone"] as const;
export type ZoneGoal = (typeof ZoneGoal)[number];

export const ZoneProtection = ["unknown", "none", "wax", "sealant", "coating"] as const;
export type ZoneProtection = (typeof ZoneProtection)[number];

export const ZoneWater = ["beads", "mixed", "sheets", "flat"] as const;
export type ZoneWater = (typeof ZoneWater)[number];

export const ZoneSoftness = ["soft", "medium", "hard", "unknown"] as const;
export type ZoneSoftness = (typeof ZoneSoftness)[number];

export const DamageKind = [
  "etch",
  "scratch",
  "swirl",
  "chip",
  "clear-coat-failure",
  "dent",
  "own-rust",
  "failed-lens",
  "cracked-lacquer",
] as const;
export type DamageKind = (typeof DamageKind)[number];

export const DamageDecision = ["noted", "recommended", "bought", "declined"] as const;
export type DamageDecision = (typeof DamageDecision)[number];

export interface Damage {
  kind: DamageKind;
  decision: DamageDecision;
  [key: `x-${string}`]: unknown;
}

export const FindingContaminant = [
  "loose-dust",
  "grit",
  "mud",
  "plant-litter",
  "salt",
  "road-film",
  "oil-grease",
  "skin-oil",
  "bug",
  "bird-dropping",
  "bee-spot",
  "sap",
  "growth",
  "tar",
  "rubber",
  "adhesive",
  "overspray",
  "iron",
  "mineral",
  "cement",
  "tyre-bloom",
  "bonded-mix",
  "old-protection",
  "oxidation",
] as const;
export type FindingContaminant = (typeof FindingContaminant)[number];

export const FindingAge = ["fresh", "days", "weeks", "seasons"] as const;
export type FindingAge = (typeof FindingAge)[number];

export const FindingCertainty = ["suspected", "seen", "measured"] as const;
export type FindingCertainty = (typeof FindingCertainty)[number];

export interface Finding {
  contaminant: FindingContaminant;
  grade: number;
  age?: FindingAge;
  certainty: FindingCertainty;
  [key: `x-${string}`]: unknown;
}
export const FindingLimits = {
  grade: [0, 4],
} as const;

export const TestTest = ["touch", "water", "cloth", "bleed", "dab", "spot", "colour", "foam", "look", "clayFace"] as const;
export type TestTest = (typeof TestTest)[number];

export const TestResult = [
  "smooth",
  "grainy",
  "rough",
  "flat",
  "sheets",
  "mixed",
  "beads",
  "clean",
  "grey",
  "gritty",
  "none",
  "faint",
  "strong",
  "smear",
  "gloss",
  "colour",
  "chalk",
  "white",
  "tan",
  "brown",
  "clear",
  "spots",
  "many",
  "specks",
  "black-lumps",
  "inconclusive",
] as const;
export type TestResult = (typeof TestResult)[number];

export const TestBecause = ["dried", "hot", "wet", "masked-colour", "light"] as const;
export type TestBecause = (typeof TestBecause)[number];

export interface Test {
  test: TestTest;
  result: TestResult;
  because?: TestBecause;
  [key: `x-${string}`]: unknown;
}

export interface Zone {
  zone: string;
  surface?: ZoneSurface;
  parts?: ZoneParts[];
  goal?: ZoneGoal;
  protection?: ZoneProtection;
  water?: ZoneWater;
  measuredC?: number;
  measuredAt?: string;
  softness?: ZoneSoftness;
  filmUm?: number[];
  refinishDays?: number;
  partShare?: number;
  damage?: Damage[];
  findings: Finding[];
  tests: Test[];
  [key: `x-${string}`]: unknown;
}
export const ZoneLimits = {
  measuredC: [-30, 120],
  filmUm: [0, 5000],
  refinishDays: [0, 36500],
  partShare: [0, 1],
} as const;
export const ZoneMost = {
  filmUm: 60,
} as const;

export interface Survey {
  format: SurveyFormat;
  id?: string;
  revision?: number;
  vehicle: Vehicle;
  history: History;
  goal: SurveyGoal;
  site: Site;
  house: House;
  shelf: SurveyShelf1 | Bottle[];
  kit?: Kit;
  lean?: Leaning;
  stockOnly?: boolean;
  declines?: Decline[];
  crew: number;
  zones: Zone[];
  [key: `x-${string}`]: unknown;
}
export const SurveyLimits = {
  revision: [0, 2147483647],
  crew: [1, 6],
} as const;
