// Loaded with `node --require`: a clock that is so many days late, for pictures of a history.
const days = Number(process.env.CLOCK_DAYS ?? 0);
const RealDate = Date;
globalThis.Date = class extends RealDate {
  constructor(...given) {
    super(...(given.length > 0 ? given : [RealDate.now() - days * 86_400_000]));
  }
  static now() {
    return RealDate.now() - days * 86_400_000;
  }
};
