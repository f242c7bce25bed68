// Five seconds in which an answer is as if it had not been given; afterwards it is taken back by a record of its own.

export const BACK_MS = 5000;

export const takingBack = (my) => ({
  draining: false,
  backWords: "",
  backId: "",

  // Five seconds in which it is as if it had not been tapped: it has not left yet.
  drain(item) {
    clearTimeout(my.draining);
    this.draining = false;
    this.backId = item.id;
    this.backWords = my.house.bag.cards[item.act]?.title || item.title;
    my.backTo = item.act;
    requestAnimationFrame(() => {
      this.draining = true;
    });
    my.draining = setTimeout(() => this.settleBack(true), BACK_MS);
  },

  settleBack(send = false) {
    clearTimeout(my.draining);
    this.draining = false;
    this.backId = "";
    if (!send) return;
    my.phone.send().then(() => this.afterSend());
    this.freshIf();
  },

  freshIf() {
    if (this.screen === "act") this.freshAct();
  },

  // What was recorded before the last one leaves at once.
  async release(id) {
    const rest = my.items.filter((item) => item.id !== id && item.state === "waiting" && item.from > Date.now() && item.isMine);
    for (const item of rest) await my.phone.items.mark(item.id, { from: 0 });
    if (rest.length) my.phone.send().then(() => this.afterSend());
  },

  async afterSend() {
    await this.count();
    if (my.phone.isHeard) await this.refresh();
  },

  async takeBack() {
    const id = this.backId;
    const to = my.backTo;
    this.settleBack();
    const item = await my.phone.items.get(id);
    if (!item || item.state === "sent") {
      if (item) await this.recordBack(item);
      return;
    }
    await my.phone.items.drop(id);
    await this.count();
    this.rebuild();
    this.tell("Taken back", "mind", "");
    this.current = "";
    if (location.hash === "#" + to) this.arrive(to);
    else this.goTo(to);
  },

  // What has left is taken back by a record of its own, within the minute.
  takeBackLate() {
    const last = my.house.last(this.current);
    if (last) this.recordBack({ id: last.id, act: this.current });
  },

  async recordBack(item) {
    await this.keepRecord(item.act, { take_back: item.id });
    this.settleBack(true);
  },

});
