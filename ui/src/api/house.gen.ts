/* Made from the house file's schema; do not edit. */

export type VividPorchHouseFileFormat3 = {
  format?: 3;
  channel?: string;
  name?: string;
  reach?: Reach;
  zone?: string;
  seed?: string;
  graceSeconds?: number;
  pace?: Pace;
  never?: string[];
  doors?: Door[];
  profiles?: Profile[];
  readings?: Reading[];
  places?: Place[];
  courtesies?: Courtesy[];
  joined?: string[];
  standings?: Rules;
  leapDay?: "28 February" | "1 March";
  privacy?: Privacy;
  hello?: Hello;
  commands?: Commands;
  shoutOuts?: ShoutOuts;
  along?: {
    [k: string]: string;
  };
  neighbours?: string[];
  alsoOn?: AlsoOn;
  announcing?: Announcing;
  unclear?: string[];
  fittings?: Fitting[];
  overlays?: Overlay[];
  ear?: Ear;
  guard?: Guard;
  fillIns?: FillIn[];
  own?: OtherEvent[];
  emotes?: Emote[];
  rooms?: {
    [k: string]: unknown;
  };
  madeOn?: string;
  crews?: Crew[];
};

export interface Reach {
  how?: "here" | "home" | "public";
  address?: string;
}
export interface Pace {
  gapSeconds: number;
  waitSeconds: number;
  joinAt: number;
  joinNames: number;
  joinEverySeconds: number;
  askSeconds: number;
  timersApartMinutes?: number;
  sharePercent?: number;
  personSeconds?: number;
}
export interface Door {
  name: string;
  kind: "irc" | "inbox" | "hook" | "listen";
  platform: string;
  address?: string;
  tls?: boolean;
  room?: string;
  account?: string;
  as?: "streamer";
  shared?: boolean;
  paused?: boolean;
  service?: Service;
}
export interface Service {
  proof?: Proof;
  listen?: Listen;
  repeat?: Repeat;
}
export interface Proof {
  how?: "hmac" | "token" | "webhook";
  header?: string;
  encoding?: "hex" | "base64";
  prefix?: string;
  timeHeader?: string;
  signed?: string;
  toleranceSeconds?: number;
}
export interface Listen {
  address?: string;
  greeting?: string;
  alive?: string;
  aliveSeconds?: number;
}
export interface Repeat {
  at?: string;
  seconds?: number;
}
export interface Profile {
  format: 1;
  platform: string;
  title: string;
  at?: string;
  chat?: Chat;
  link?: string;
  signIn?: SignIn;
  lookup?: Lookup;
  counts?: Count[];
  clips?: List;
  emotes?: List;
  acts?: Acts;
  missed?: Missed;
  community?: Community;
  social?: Social;
}
export interface Chat {
  address?: string;
  tls?: boolean;
  room?: string;
  tokenLogin?: boolean;
  idTag?: string;
  nameTag?: string;
  rolesTag?: string;
  roles?: {
    [k: string]: string;
  };
  messageTag?: string;
  timeTag?: string;
  lines: number;
  windowSeconds: number;
  maxBytes: number;
  commandSigns?: string;
  private?: boolean;
  grants?: Grants;
}
export interface Grants {
  speak?: string;
  moderate?: string;
}
export interface SignIn {
  authorize: string;
  token: string;
  revoke?: string;
  account: Account;
  scopes?: Scope[];
  register?: string;
}
export interface Account {
  address: string;
  id: string;
  login: string;
  name?: string;
}
export interface Scope {
  name: string;
  allows: string;
  for?: string[];
}
export interface Lookup {
  address: string;
  id?: string;
  login?: string;
  name?: string;
  link?: string;
  category?: string;
  title?: string;
  picture?: string;
  live?: string;
}
export interface Count {
  name: string;
  title: string;
  address: string;
  value: string;
}
export interface List {
  address: string;
  each: string;
  word?: string;
  picture?: string;
  film?: string;
  seconds?: string;
}
export interface Acts {
  address?: string;
  cannot?: {
    [k: string]: string;
  };
  holds?: boolean;
  limits?: {
    [k: string]: ActLimit;
  };
}
export interface ActLimit {
  seconds?: number;
  personSeconds?: number;
}
export interface Missed {
  address: string;
  days: number;
}
export interface Community {
  landings: Landings;
  post: string;
  edit?: string;
  id: string;
  under?: boolean;
  body: unknown;
}
export interface Landings {
  address: string;
  each: string;
  id: string;
  title: string;
  rights: string;
  words: {
    [k: string]: string;
  };
}
export interface Social {
  post: Send;
  id?: string;
  limit?: number;
  message?: Send;
  picture?: Send;
  banner?: Send;
}
export interface Send {
  address: string;
  method?: string;
  body: unknown;
}
export interface Reading {
  name: string;
  doors?: string[];
  if?: Condition[];
  makes: string;
  take: {
    [k: string]: Take;
  };
}
export interface Condition {
  at: string;
  how: "is" | "is not" | "is there" | "is not there" | "holds";
  is?: string;
}
export interface Take {
  at?: string;
  is?: string;
  cents?: boolean;
}
export interface Place {
  name: string;
  title: string;
  kind?: string;
  url: string;
  body: unknown;
  headers?: {
    [k: string]: string;
  };
  platform?: string;
  landing?: string;
  allows?: string[];
  account?: string;
  room?: string;
  file?: string;
  each?: string;
  byStream?: boolean;
  timeoutSeconds?: number;
  ignoresKeys?: boolean;
  perMinute?: number;
  letters?: number;
  noLinks?: boolean;
  paused?: boolean;
}
export interface Courtesy {
  id: string;
  on: boolean;
  when:
    | "porch.stream.opened"
    | "porch.stream.changed"
    | "porch.dates.week"
    | "arrival"
    | "hello"
    | "command"
    | "day"
    | "hand"
    | "neighbour"
    | "porch.note.left"
    | "porch.bookmark.set"
    | "porch.draw.opened"
    | "porch.draw.entered"
    | "porch.draw.reminded"
    | "porch.draw.closed"
    | "porch.draw.won"
    | "porch.draw.claimed"
    | "porch.draw.unclaimed"
    | "porch.draw.unwon"
    | "porch.draw.cancelled"
    | "porch.points.levelled"
    | "porch.points.given"
    | "porch.game.stone"
    | "porch.game.race.called"
    | "porch.game.race.run"
    | "porch.game.race.lapsed"
    | "porch.game.tide.turns"
    | "porch.game.tide.in"
    | "porch.game.tide.ebbed"
    | "porch.game.anemone"
    | "timer"
    | "lull"
    | "back"
    | "porch.post.asked"
    | "porch.person.entered"
    | "porch.raid.came"
    | "porch.person.followed"
    | "porch.support.subscribed"
    | "porch.support.gifted"
    | "porch.support.tipped"
    | "porch.support.credits"
    | "porch.reward.claimed"
    | "porch.shop.sold"
    | "porch.shop.gifted"
    | "porch.shop.used"
    | "porch.channel.shown"
    | "porch.person.joined"
    | "porch.person.timedout"
    | "porch.person.banned"
    | "porch.chat.removed"
    | "porch.social.followed"
    | "porch.social.liked"
    | "porch.social.reposted"
    | "porch.other"
    | "porch.raid.went"
    | "porch.stream.closed";
  asks?: string[];
  asked?: Asking;
  who?: Who;
  only?: boolean;
  measure?: Measure;
  slot?: "greeting" | "shout-out" | "thanks" | "answer" | "";
  also?: boolean;
  offLine?: boolean;
  away?: boolean;
  title?: string;
  tells?: string;
  group?: string;
  delaySeconds?: number;
  timer?: Timer;
  cost?: number;
  burst?: Burst;
  do: Output[];
}
export interface Asking {
  words?: string[];
  restSeconds?: number;
  personSeconds?: number;
  resting?: string[];
  unlisted?: boolean;
  /**
   * account of a neighbour
   */
  leaves?: string;
}
export interface Who {
  nobody?: boolean;
  account?: string;
  crews?: Crews;
  mark?: "raider" | "fellow streamer";
  role?: "streamer" | "co-host" | "moderator" | "vip" | "subscriber" | "follower";
  orAbove?: boolean;
  tag?: string;
  trusted?: boolean;
  standing?: "newcomer" | "returning" | "regular" | "long away";
  platform?: string;
  date?: Date;
  attended?: number;
  days?: string[];
  hours?: Hours;
  since?: string;
  until?: string;
  fields?: {
    [k: string]: string;
  };
  all?: Who[];
  any?: Who[];
  not?: Who[];
}
export interface Crews {
  of: string[];
  in?: "all" | "one" | "any";
}
export interface Date {
  of?: "birthday" | "follow" | "first visit" | "round number" | "channel";
  when: "today" | "belated" | "within";
  days?: number;
  years?: number;
}
export interface Hours {
  from: string;
  to: string;
}
export interface Measure {
  of?: "level" | "won" | "viewers" | "months" | "gifts" | "amount" | "credits" | "cost" | "items";
  currency?: string;
  exactly?: number;
  atLeast?: number;
  upTo?: number;
  largest?: "tonight" | "ever";
}
export interface Timer {
  minutes: number;
  lines?: number;
  offMinutes?: number;
}
export interface Burst {
  seconds: number;
  at: number;
}
export interface Output {
  id: string;
  alternatives?: string[];
  weights?: number[];
  joined?: string[];
  delaySeconds?: number;
  waitSeconds?: number;
  only?: Who;
  measure?: Measure;
  ask?: boolean;
  on?: string[];
  cost?: number;
  kind:
    | "say"
    | "answer"
    | "keep"
    | "along"
    | "note"
    | "bookmark"
    | "social"
    | "shout-out"
    | "birthday"
    | "celebrate"
    | "card"
    | "sound"
    | "film"
    | "speak"
    | "lamp"
    | "music"
    | "scene"
    | "relay"
    | "platform"
    | "permit"
    | "draw"
    | "stone"
    | "race"
    | "tide"
    | "anemone"
    | "give"
    | "unlisted"
    | "raise";
  as?: "streamer";
  of?: string;
  place?: string;
  approval?: "always" | "role" | "never";
  approvalRole?: "subscriber" | "vip" | "moderator" | "streamer";
  links?: boolean;
  birthday?: "set" | "forget" | "hide" | "show" | "clear";
  missed?: boolean;
  second?: string;
  media?: string;
  seconds?: number;
  overlay?: string;
  box?: string;
  style?: {
    look?: "hung lantern" | "glass slide" | "tide line";
    size?: number;
    board?: string;
    words?: string;
    light?: string;
    comes?: "is hung" | "drifts in" | "is there" | "rises with the tide" | "swings round" | "is lit";
    goes?: "is dimmed" | "drifts off" | "is gone";
  };
  clip?: boolean;
  clipSeconds?: number;
  fitting?: string;
  loud?: number;
  whole?: boolean;
  key?: {
    colour: string;
    tolerance?: number;
    edge?: number;
    spill?: number;
  };
  voice?: string;
  asks?: boolean;
  letters?: number;
  how?: "flash" | "pulse" | "run";
  colour?: string;
  colours?: string[];
  everySeconds?: number;
  act?:
    | "open"
    | "close"
    | "draw"
    | "cancel"
    | "title"
    | "category"
    | "clip"
    | "advert break"
    | "slow chat"
    | "emote-only chat"
    | "subscribers-only chat"
    | "give VIP"
    | "take VIP"
    | "delete line"
    | "platform shout-out"
    | "raid"
    | "time-out"
    | "ban"
    | "pause"
    | "go on"
    | "softer";
  percent?: number;
  scene?: string;
  paused?: boolean;
  gather?: {
    minutes: number;
    count?: number;
  };
  quiet?: {
    from: string;
    to: string;
    drop?: boolean;
  };
  onto?: "edit" | "under";
  drawing?: {
    wording?: string;
    ground?: "dusk" | "linen" | "tide";
    picture?: string;
    frame?: "cord" | "board" | "none";
    at?: "left" | "middle" | "right";
  };
  does?: "message" | "portrait" | "banner";
  call?: string;
  ready?: string;
  usual?: number;
  most?: number;
  edge?: number;
  finds?: {
    name: string;
    weight: number;
    pays?: number;
  }[];
  people?: number;
  prize?: number;
  opens?: number;
  answers?: string[];
  shut?: string[];
  off?: boolean;
  event?: string;
  fields?: {
    [k: string]: string;
  };
}
export interface Rules {
  regularAttended: number;
  regularOf: number;
  awayVisits: number;
  awayDays: number;
}
export interface Privacy {
  ask: string[];
  forget: string[];
  confirm: string[];
  remember: string[];
  keepDays: number;
  link: string[];
  open: string[];
  sure: string[];
  gone: string[];
  deliveredDays?: number;
  failedDays?: number;
}
export interface Hello {
  words: string[];
  restSeconds: number;
  personSeconds: number;
}
export interface Commands {
  signs?: {
    [k: string]: string;
  };
}
export interface ShoutOuts {
  gapSeconds?: number;
  personHours?: number;
  never?: string[];
}
export interface AlsoOn {
  how?: "follow up" | "each" | "nothing";
  words?: string[];
}
export interface Announcing {
  holdSeconds?: number;
  late?: "drop" | "follow up";
  lateWords?: string;
}
export interface Fitting {
  name: string;
  title: string;
  kind: "player" | "lamp" | "scenes";
  url: string;
  scenes?: string[];
  voices?: string[];
  profile?: string;
  own?: FittingProfile;
}
export interface FittingProfile {
  format: 1;
  name: string;
  title: string;
  kind: "player" | "lamp" | "scenes";
  way?: "http" | "websocket";
  proof?: FittingProof;
  greeting?: FittingGreeting;
  does: {
    [k: string]: FittingDoes;
  };
  answer?: FittingAnswer;
}
export interface FittingProof {
  how?: "signed" | "bearer" | "header";
  header?: string;
}
export interface FittingGreeting {
  waits?: boolean;
  challenge?: string;
  salt?: string;
  proof?: string[][];
  say?: unknown;
  welcome?: FittingTest;
}
export interface FittingTest {
  at: string;
  is?: unknown;
}
export interface FittingDoes {
  path?: string;
  method?: "GET" | "POST" | "PUT" | "PATCH";
  body?: unknown;
}
export interface FittingAnswer {
  of?: FittingTest;
  done?: FittingTest;
  reason?: string;
  was?: string;
}
export interface Overlay {
  id: string;
  title: string;
  wide: number;
  high: number;
  boxes?: Box[];
  most?: number;
  waitSeconds?: number;
  order?: string[];
  loudest?: number;
  silent?: boolean;
  calm?: boolean;
}
export interface Box {
  id: string;
  title?: string;
  locked?: boolean;
  off?: boolean;
  left: number;
  top: number;
  wide: number;
  high: number;
  kind: "cards" | "film" | "chat lines" | "goal" | "count" | "last one" | "rail" | "countdown" | "emotes";
  look?: "chalk" | "slate" | "waterline" | "hung lantern" | "glass slide" | "tide line";
  size?: number;
  board?: string;
  words?: string;
  light?: string;
  comes?: "is hung" | "drifts in" | "is there" | "rises with the tide" | "swings round" | "is lit";
  goes?: "is dimmed" | "drifts off" | "is gone";
  seconds?: number;
  without?: "theirs" | "picture" | "film" | "lantern";
  picture?: string;
  film?: string;
  key?: {
    colour: string;
    tolerance?: number;
    edge?: number;
    spill?: number;
  };
  fallback?: string;
  show?: string[];
  marks?: "when several" | "always" | "never";
  what?: "followers" | "tippers" | "raiders" | "subscribers" | "tips" | "lanterns" | "command";
  currency?: string;
  command?: string;
  start?: number;
  tonight?: boolean;
  of?: string;
  target?: number;
  as?: "lanterns" | "bar";
  label?: string;
  most?: number;
  names?: "as they come" | "always" | "never";
  until?: string;
  adds?: {
    for: "month" | "unit" | "gift" | "credit";
    currency?: string;
    campaign?: string;
    seconds: number;
  }[];
  stop?: string;
}
export interface Ear {
  standings?: string[];
  noDays?: boolean;
  noFellows?: boolean;
  waiting?: boolean;
  voice?: string;
}
export interface Guard {
  rules?: Rule[];
  heldMinutes?: number;
  permitMinutes?: number;
  floodMinutes?: number;
  modes?: string[];
  warnings?: string[];
}
export interface Rule {
  id: string;
  on?: boolean;
  then: Step[];
  days?: number;
  not?: ("VIPs" | "regulars")[];
  kind: "words" | "links" | "again" | "several" | "capitals" | "symbols" | "emoji" | "emotes" | "one emote" | "length";
  words?: {
    text: string;
    part?: boolean;
  }[];
  allow?: string[];
  times?: number;
  seconds?: number;
  from?: number;
  people?: number;
  percent?: number;
  most?: number;
  named?: string[];
}
export interface Step {
  act: "warn" | "hold" | "remove" | "time-out" | "ban";
  seconds?: number;
}
export interface FillIn {
  name: string;
  kind: "dice" | "last" | "clock" | "list" | "fetched";
  from?: number;
  to?: number;
  who?: "followers" | "subscribers" | "gifters" | "tippers" | "raiders";
  most?: number;
  zone?: string;
  list?: string[];
  address?: string;
  pointer?: string;
  everySeconds?: number;
}
export interface OtherEvent {
  event: string;
  fields: {
    [k: string]: string;
  };
}
export interface Emote {
  word: string;
  platforms: string[];
}
export interface Crew {
  id: string;
  name: string;
  emblem: string;
  initials: string;
  people: string[];
}
