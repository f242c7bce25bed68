// Quick sums that were asked lately on this device.

const KEPT = "gumboot-sums";
export const MOST = 20;

// The rows with one more: the same question stands once, and while one is being typed its last form is the one that is kept.
export function withRow(rows, row, typing) {
  const others = rows.filter((old, n) => old.href !== row.href && !(n === 0 && typing === old.href));
  return [row, ...others].slice(0, MOST);
}

export const asked = () => ({
  rows: [],
  typing: "",

  init() {
    this.load();
    this.keep();
    document.addEventListener("htmx:after:swap", () => setTimeout(() => this.keep(), 50));
  },

  load() {
    try {
      this.rows = JSON.parse(localStorage.getItem(KEPT)) || [];
    } catch {
      this.rows = [];
    }
  },

  keep() {
    const big = document.querySelector("#found .big");
    if (!big) return;
    this.load(); // another tab may have asked meanwhile
    const title = document.getElementById("asked").textContent;
    const row = { title, answer: big.firstChild.textContent.trim(), href: location.pathname + location.search };
    this.rows = withRow(this.rows, row, this.typing);
    this.typing = row.href;
    try {
      localStorage.setItem(KEPT, JSON.stringify(this.rows));
    } catch {
      // a full store keeps no history
    }
  },
});
