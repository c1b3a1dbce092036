(() => {
  "use strict";
  const root = document.documentElement;
  root.classList.add("scripted");

  // Switches: what each may be, the first being what holds without a choice.
  const SWITCHES = {
    layout: ["beside", "stacked"],
    wrap: ["on", "off"],
    muted: ["shown", "hidden"],
    theme: ["system", "light", "dark"],
  };
  // A page from a file may have no storage: choices then last as long as the page.
  const stored = (name) => {
    try { return localStorage.getItem("tideline." + name); } catch { return null; }
  };
  const store = (name, value) => {
    try { localStorage.setItem("tideline." + name, value); } catch { /* the choice still holds here */ }
  };
  for (const [name, values] of Object.entries(SWITCHES)) {
    const value = stored(name);
    root.dataset[name] = values.includes(value) ? value : values[0];
  }

  addEventListener("DOMContentLoaded", () => {
    const all = (selector, from = document) => [...from.querySelectorAll(selector)];
    const one = (selector) => document.querySelector(selector);
    const number = (count) => count.toLocaleString("en-US");

    const showSwitches = () => {
      for (const button of all("[data-switch]")) {
        const name = button.dataset.switch;
        if (name === "theme") button.textContent = "Theme: " + root.dataset.theme;
        else button.setAttribute("aria-pressed", String(root.dataset[name] === button.dataset.pressed));
      }
    };
    const turn = (name) => {
      const button = one(`[data-switch="${name}"]`);
      if (!button) return;
      const kept = nearest();
      const top = kept && box(kept).top;
      const values = SWITCHES[name];
      root.dataset[name] = values[(values.indexOf(root.dataset[name]) + 1) % values.length];
      store(name, root.dataset[name]);
      showSwitches();
      // What was being read stays where it is.
      if (kept && isShown(kept)) scrollBy(0, box(kept).top - top);
      tell();
    };

    // Changes.
    const changes = all(".change");
    const isShown = (change) => !change.hidden && !(root.dataset.muted === "hidden" && change.classList.contains("muted"));
    const shown = () => changes.filter(isShown);
    const line = () => (one(".bar")?.offsetHeight ?? 0) + 16;
    const teller = one("#where");
    let now = null;
    // Files out of sight are not laid out; only those near the line are asked where their changes are.
    const files = all(".file").length > 0 ? all(".file") : all("main");
    const box = (element) => element.getBoundingClientRect();
    const below = (file) => all(".change", file).filter(isShown);
    const first = (fits) => {
      for (const file of files.filter((file) => box(file).bottom > line())) {
        const change = below(file).find(fits);
        if (change) return change;
      }
      return undefined;
    };
    const last = (fits) => {
      for (const file of files.filter((file) => box(file).top < line()).reverse()) {
        const change = below(file).findLast(fits);
        if (change) return change;
      }
      return undefined;
    };
    const nearest = () => first((change) => box(change).bottom > line());
    const tell = () => {
      if (!teller) return;
      // A block that moved is one change, though both its ends are stops.
      const list = shown().filter((change) => !change.id.endsWith("-end"));
      const at = now ? list.findIndex((change) => change.id === now.id.replace(/-end$/, "")) : -1;
      const total = list.length === 1 ? "1 change" : `${number(list.length)} changes`;
      teller.textContent = at < 0 ? total : `${number(at + 1)} of ${number(list.length)}`;
    };
    const mark = (change) => {
      now?.classList.remove("now");
      now = change;
      now.classList.add("now");
      tell();
    };
    const go = (change) => {
      if (!change) return;
      mark(change);
      for (let fold = change.closest("details"); fold; fold = fold.parentElement.closest("details")) fold.open = true;
      const heading = change.querySelector("h3") ?? change.querySelector("a");
      heading.focus({ preventScroll: true });
      change.scrollIntoView({ block: "start" });
      history.replaceState(null, "", "#" + change.id);
    };
    const step = (by) => {
      if (now && isShown(now) && box(now).bottom > 0 && box(now).top < innerHeight) {
        const list = shown();
        return go(list[list.indexOf(now) + by]);
      }
      go(by > 0 ? first((change) => box(change).top > line() - 4) : last((change) => box(change).top < line() - 4));
    };
    const goToFile = (by) => {
      const link = one(by > 0 ? "a[rel=next]" : "a[rel=prev]");
      if (link) return link.click();
      const file = by > 0
        ? files.find((file) => box(file).top > line() + 4)
        : files.findLast((file) => box(file).top < line() - 4);
      file?.scrollIntoView({ block: "start" });
    };
    const followAddress = () => {
      const target = document.getElementById(decodeURIComponent(location.hash.slice(1)));
      if (target?.classList.contains("change")) mark(target);
    };
    addEventListener("hashchange", followAddress);

    // Folds hold plain text until they are opened; then it becomes lines with numbers.
    const unfold = (fold) => {
      for (const text of all("pre", fold)) {
        let before = Number(text.dataset.before);
        let after = Number(text.dataset.after);
        const rows = document.createElement("div");
        rows.className = "rows";
        let pieces = [];
        const end = () => {
          const row = document.createElement("div");
          row.className = "row equal";
          for (const own of [before++, after++]) {
            const cell = document.createElement("i");
            cell.textContent = own;
            const code = document.createElement("code");
            code.append(...pieces.map((piece) => piece.cloneNode(true)));
            row.append(cell, code);
          }
          rows.append(row);
          pieces = [];
        };
        for (const node of text.childNodes) {
          if (node.nodeType !== Node.TEXT_NODE) {
            pieces.push(node);
            continue;
          }
          const parts = node.data.split("\n");
          parts.forEach((part, index) => {
            if (index > 0) end();
            if (part) pieces.push(document.createTextNode(part));
          });
        }
        text.replaceWith(rows);
      }
    };
    document.addEventListener("toggle", (event) => {
      if (event.target.open && event.target.matches?.("details.fold")) unfold(event.target);
      // A very long line opens on both sides.
      const row = event.target.matches?.("details.whole") && event.target.closest(".row");
      if (row) for (const whole of all("details.whole", row)) whole.open = event.target.open;
    }, true);
    const turnFolds = () => {
      const folds = all("details.fold");
      const open = folds.some((fold) => !fold.open);
      for (const fold of folds) fold.open = open;
    };

    // Of two columns, only the one in which a selection begins is taken along.
    document.addEventListener("pointerdown", (event) => {
      const code = event.target.closest?.(".row > code");
      const lines = code?.closest(".body");
      if (!lines) return;
      const row = code.parentElement;
      const isBefore = code !== row.lastElementChild || row.classList.contains("gone") || row.classList.contains("before");
      const beside = getComputedStyle(code).gridColumnStart !== "3";
      lines.classList.toggle("keep-before", beside && isBefore);
      lines.classList.toggle("keep-after", beside && !isBefore);
    });

    // The tree: found by a part of the path, filtered by status.
    const finder = one(".finder");
    const search = one("#search");
    const count = one("#found");
    const folders = all(".tree li[data-path]");
    const above = (item) => item.parentElement.closest("li[data-path]");
    const entries = all(".tree li[data-status]").map((item) => {
      const folder = above(item);
      const path = (folder?.dataset.path ?? "") + item.querySelector(".name").textContent;
      return { item, folder, path: path.toLowerCase(), statuses: item.dataset.status.split(" ") };
    });
    const find = () => {
      const wanted = search.value.trim().toLowerCase();
      const statuses = new Set(all("[name=status]:checked", finder).map((box) => box.value));
      const filled = new Set();
      let found = 0;
      for (const entry of entries) {
        entry.fits = entry.statuses.some((status) => statuses.has(status)) && entry.path.includes(wanted);
        if (!entry.fits) continue;
        found += 1;
        for (let at = entry.folder; at && !filled.has(at); at = above(at)) filled.add(at);
      }
      for (const folder of folders) {
        folder.classList.toggle("out", !filled.has(folder));
        if (wanted && filled.has(folder)) folder.firstElementChild.open = true;
      }
      // What is in a hidden folder is hidden with it.
      for (const { item, folder, fits } of entries) {
        if (item.hidden === fits && (!folder || filled.has(folder))) item.hidden = !fits;
      }
      const total = number(entries.length);
      count.textContent = found === entries.length ? `${total} listed` : `${number(found)} of ${total} listed`;
    };
    if (finder) {
      finder.addEventListener("input", find);
      finder.addEventListener("submit", (event) => event.preventDefault());
      one("#fold-all").addEventListener("click", () => {
        const open = folders.some((folder) => !folder.firstElementChild.open);
        for (const folder of folders) folder.firstElementChild.open = open;
      });
      find();
    }

    // Keys: those that the page lists.
    const KEYS = {
      n: () => step(1),
      b: () => step(-1),
      ".": () => goToFile(1),
      ",": () => goToFile(-1),
      l: () => turn("layout"),
      w: () => turn("wrap"),
      m: () => turn("muted"),
      t: () => turn("theme"),
      f: turnFolds,
      a: () => one("a[rel=up]")?.click(),
      "/": () => search?.focus(),
      "?": () => {
        const keys = one(".keys");
        keys.open = !keys.open;
        if (keys.open) keys.firstElementChild.focus();
      },
    };
    document.addEventListener("keydown", (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.target.matches("input, textarea, select")) {
        if (event.key === "Escape") event.target.blur();
        return;
      }
      const obey = KEYS[event.key];
      if (!obey) return;
      event.preventDefault();
      obey();
    });
    document.addEventListener("click", (event) => {
      const button = event.target.closest?.("button");
      if (button?.dataset.switch) turn(button.dataset.switch);
      if (button?.dataset.step) step(Number(button.dataset.step));
      if (button?.dataset.folds !== undefined) turnFolds();
    });

    // Grids: rows are searched as a whole, and by column.
    for (const tools of all(".grid-tools")) {
      const grid = tools.nextElementSibling.querySelector(".grid");
      const rows = all("tbody tr", grid);
      const texts = rows.map((row) => row.textContent.toLowerCase());
      const filters = all(".filters td", grid).map((cell) => cell.querySelector("input"));
      const search = tools.querySelector(".grid-search");
      const count = tools.querySelector(".grid-count");
      const filter = () => {
        const wanted = search.value.toLowerCase();
        const columns = filters.map((input, at) => [at, input?.value.toLowerCase()]).filter(([, text]) => text);
        let left = 0;
        rows.forEach((row, at) => {
          row.hidden = !texts[at].includes(wanted)
            || columns.some(([column, text]) => !row.cells[column].textContent.toLowerCase().includes(text));
          if (!row.hidden) left += 1;
        });
        count.textContent = left === rows.length ? "" : `${number(left)} of ${number(rows.length)} rows`;
        tell();
      };
      for (const input of [search, ...filters]) input?.addEventListener("input", filter);
      tools.querySelector(".grid-unfold")?.addEventListener("change", (event) => {
        grid.classList.toggle("unfolded", event.target.checked);
      });
    }

    // What is jumped to stands below the bar, however high that is.
    const bar = one(".bar");
    new ResizeObserver(() => root.style.setProperty("--bar", bar.offsetHeight + "px")).observe(bar);

    showSwitches();
    followAddress();
    tell();
  });
})();
