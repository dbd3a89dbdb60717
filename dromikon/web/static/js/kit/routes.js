// Every address that scripts use, once. Names in braces are filled in; {site} is the page's own.

/** Pages and their fragments. */
export const PAGES = {
  feed: "/s/{site}/feed",
  card: "/s/{site}/desk/alarm/{alarm}",
  load: "/s/{site}/desk/load",
  shelf: "/s/{site}/desk/shelf",
  event: "/s/{site}/daybook/event/{event}",
  lines: "/s/{site}/daybook/lines",
  recent: "/s/{site}/daybook/recent",
  rule: "/s/{site}/rulebook/{rule}",
  ruleLately: "/s/{site}/rulebook/{rule}/lately",
  rules: "/s/{site}/rulebook/rows",
  checks: "/s/{site}/rulebook/checks",
  lists: "/s/{site}/lists",
  hours: "/s/{site}/hours",
  oneHours: "/s/{site}/hours/{hours}",
  sources: "/s/{site}/sources",
  list: "/s/{site}/lists/{list}",
  newDevice: "/s/{site}/sources/device",
  device: "/s/{site}/sources/device/{device}",
  deviceExchanges: "/s/{site}/sources/device/{device}/exchanges",
  detectors: "/s/{site}/sources/device/{device}/detectors",
  intakeCame: "/s/{site}/sources/intake/{intake}/came",
  teach: "/s/{site}/sources/intake/{intake}/teach",
  teachDevice: "/s/{site}/sources/device/{device}/teach",
  seen: "/s/{site}/sources/device/{device}/seen",
  plan: "/s/{site}/sources/plan",
  planPoint: "/s/{site}/sources/plan/point/{point}",
  deviceCome: "/s/{site}/sources/device/{device}/come",
  live: "/s/{site}/live",
  picture: "/s/{site}/picture/{camera}",
  snapshot: "/s/{site}/snapshot/{snapshot}",
  frames: "/s/{site}/frames/{camera}",
  clip: "/s/{site}/export/{camera}",
};

/** What is sent and fetched: the API, with its method. */
export const CALLS = {
  acknowledge: "POST /alarms/{alarm}/acknowledge",
  acknowledgeSeveral: "POST /alarms/acknowledge",
  leaveAlarm: "POST /alarms/{alarm}/leave",
  shelveAlarm: "POST /alarms/{alarm}/shelve",
  takeAlarm: "POST /alarms/{alarm}/take",
  unshelveAlarm: "POST /alarms/{alarm}/unshelve",
  adopt: "POST /devices/{device}/points",
  askDevice: "POST /devices/{device}/ask",
  watchDevice: "POST /devices/{device}/watch",
  changeDetector: "PUT /devices/{device}/detectors",
  deleteDetector: "DELETE /devices/{device}/detectors",
  makeDetector: "POST /devices/{device}/detectors",
  loadPlan: "PUT /plan",
  pointsNow: "GET /points/now",
  scalePlan: "PUT /plan/scale",
  placePoint: "PUT /points/{point}/place",
  setSightlines: "PUT /points/{point}/sightlines",
  takeDevices: "PUT /devices/table",
  noteChanges: "POST /devices/{device}/changes/note",
  axis: "GET /cameras/{camera}/axis",
  beside: "POST /rules/beside",
  bookmark: "POST /bookmarks",
  changeDevice: "PUT /devices/{device}",
  changeList: "PUT /lists/{list}",
  coverage: "GET /cameras/{camera}/coverage",
  declineRule: "PUT /devices/{device}/proposals/{starting}",
  deleteHours: "DELETE /hours/{hours}",
  hoursShown: "POST /hours/shown",
  makeHours: "POST /hours",
  replaceHours: "PUT /hours/{hours}",
  deleteList: "DELETE /lists/{list}",
  deleteRule: "DELETE /rules/{rule}",
  desk: "GET /desk",
  addSighting: "POST /lists/{list}/sightings",
  changeEntries: "PATCH /lists/{list}/entries",
  entries: "GET /lists/{list}/entries",
  previewTable: "PUT /lists/{list}/table/preview",
  sightings: "GET /lists/{list}/sightings",
  tryValue: "GET /lists/{list}/try",
  eraseEntry: "POST /lists/{list}/erase",
  addFound: "POST /searches/{search}/add",
  muteRule: "PUT /rules/{rule}/mute",
  search: "POST /searches",
  sendAgain: "POST /deliveries/{delivery}/again",
  searched: "GET /searches/{search}",
  exportRules: "GET /rulebook/export",
  importRules: "POST /rulebook/import",
  severalRules: "POST /rulebook/several",
  makeDevice: "POST /devices",
  makeList: "POST /lists",
  makeRule: "POST /rules",
  marks: "GET /marks",
  mode: "PUT /situation/mode",
  press: "POST /buttons/{button}/press",
  seenValues: "GET /rules/seen",
  meanwhile: "POST /rules/{rule}/meanwhile",
  preview: "POST /rules/preview",
  putLive: "POST /rules/{rule}/live",
  readText: "POST /rules/read",
  revision: "GET /rules/{rule}/revisions/{number}",
  ruleText: "POST /rules/text",
  dropDraft: "DELETE /rules/{rule}/draft",
  rehearse: "POST /rules/rehearse",
  explain: "POST /rules/explain",
  markEvent: "PUT /rules/{rule}/examples/{event}",
  proposeTest: "POST /rules/propose",
  tryRule: "POST /rules/try",
  testRule: "POST /rules/{rule}/test",
  keepCase: "POST /rules/{rule}/cases",
  checkCases: "POST /rules/{rule}/cases/check",
  dropCase: "DELETE /rules/{rule}/cases/{case}",
  renamePoint: "PUT /points/{point}/name",
  replaceRule: "PUT /rules/{rule}",
  replaceTable: "PUT /lists/{list}/table",
  restoreRule: "POST /rules/{rule}/restore",
  switchRule: "POST /rules/{rule}/enable",
  addThing: "POST /setup/{sort}",
  formOf: "GET /setup/{sort}/form",
  changeThing: "PUT /setup/{sort}/{thing}",
  doToThing: "POST /setup/{sort}/{thing}/{verb}",
  retireDevice: "DELETE /devices/{device}",
  retireThing: "DELETE /setup/{sort}/{thing}",
  takePoints: "PUT /setup/points/table",
  tryDecoder: "POST /decoders/trial",
  tryStep: "POST /rulebook/rules/{rule}/steps/{step}/trial",
};

/** The address of a page, for a site, with parameters behind it. */
export function pageAt(site, name, places = {}, query = {}) {
  return filled(PAGES[name], { site, ...places }) + asked(query);
}

/** [method, address] of a call, for a site. */
export function callAt(site, name, places = {}, query = {}) {
  const [method, path] = CALLS[name].split(" ");
  return [method, `/api/v1${filled(path, places)}${asked({ site, ...query })}`];
}

const filled = (path, places) => path.replace(/\{(\w+)\}/g, (_, name) => encodeURIComponent(places[name]));

/** A list stands for its name several times. */
function asked(query) {
  const pairs = Object.entries(query).flatMap(([name, value]) => [value].flat().map((one) => [name, one]));
  const text = new URLSearchParams(pairs).toString();
  return text ? `?${text}` : "";
}
