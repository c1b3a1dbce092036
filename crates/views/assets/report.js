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
      for (const shape of all(".boxes rect")) shape.classList.toggle("now", shape.dataset.for === change.id);
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

    // Images: all of one pair are moved and enlarged together.
    for (const pictures of all(".pictures")) {
      const panes = all(".pane", pictures);
      const [width, height] = [Number(pictures.dataset.width), Number(pictures.dataset.height)];
      const told = one(".zoom-tools output") && pictures.querySelector(".zoom-tools output");
      const range = pictures.querySelector("input[type=range]");
      const shownPane = () => panes.find((pane) => pane.offsetWidth > 0) ?? panes[0];
      let at = { zoom: 1, x: 0, y: 0, fits: true };
      const draw = () => {
        for (const layers of all(".layers", pictures)) {
          layers.style.transform = `translate(${at.x}px, ${at.y}px) scale(${at.zoom})`;
          layers.classList.toggle("large", at.zoom >= 2);
        }
        told.textContent = at.fits ? "fit" : `${Math.round(at.zoom * 100)} %`;
      };
      const fit = () => {
        const pane = shownPane();
        const most = Math.min(pane.clientWidth / width, innerHeight * 0.7 / height);
        const zoom = most >= 2 ? Math.min(Math.floor(most), 16) : most;
        for (const each of panes) each.style.height = Math.max(Math.ceil(height * zoom), 48) + "px";
        at = { zoom, x: Math.max((pane.clientWidth - width * zoom) / 2, 0), y: 0, fits: true };
        draw();
      };
      const zoomAt = (factor, x, y) => {
        const zoom = Math.min(Math.max(at.zoom * factor, 0.02), 64);
        const by = zoom / at.zoom;
        at = { zoom, x: x - (x - at.x) * by, y: y - (y - at.y) * by, fits: false };
        draw();
      };
      const lookAt = (shape) => {
        const box = ["x", "y", "width", "height"].map((name) => Number(shape.getAttribute(name)));
        const pane = shownPane();
        const zoom = Math.min(Math.max(Math.min(pane.clientWidth / box[2], pane.clientHeight / box[3]) / 2, at.zoom), 16);
        at = {
          zoom,
          x: pane.clientWidth / 2 - (box[0] + box[2] / 2) * zoom,
          y: pane.clientHeight / 2 - (box[1] + box[3] / 2) * zoom,
          fits: false,
        };
        draw();
      };
      const show = (view) => {
        pictures.dataset.view = view;
        for (const button of all("[data-show]", pictures)) {
          button.setAttribute("aria-pressed", String(button.dataset.show === view));
        }
        if (at.fits) fit();
      };
      const blend = () => {
        pictures.querySelector(".new").style.opacity = pictures.dataset.view === "blend" ? Number(range.value) / 100 : "";
      };
      pictures.addEventListener("click", (event) => {
        const button = event.target.closest("button");
        if (!button) return;
        const pane = shownPane();
        if (button.dataset.show) show(button.dataset.show);
        if (button.dataset.zoom === "0") fit();
        else if (button.dataset.zoom) {
          zoomAt(button.dataset.zoom === "1" ? 1.5 : 1 / 1.5, pane.clientWidth / 2, pane.clientHeight / 2);
        }
        if (button.dataset.swap !== undefined) {
          pictures.classList.toggle("swapped");
          range.value = 100 - Number(range.value);
        }
        blend();
      });
      range.addEventListener("input", blend);
      pictures.querySelector(".same-tool input").addEventListener("change", (event) => {
        pictures.classList.toggle("without-same", event.target.checked);
      });
      for (const pane of panes) {
        pane.addEventListener("wheel", (event) => {
          if (!event.ctrlKey) return;
          event.preventDefault();
          const from = box(pane);
          zoomAt(event.deltaY < 0 ? 1.25 : 0.8, event.clientX - from.left, event.clientY - from.top);
        }, { passive: false });
        pane.addEventListener("dblclick", (event) => {
          const from = box(pane);
          zoomAt(2, event.clientX - from.left, event.clientY - from.top);
        });
        pane.addEventListener("pointerdown", (event) => {
          event.preventDefault();
          pane.setPointerCapture(event.pointerId);
          const start = { x: event.clientX - at.x, y: event.clientY - at.y };
          const move = (event) => {
            at = { ...at, x: event.clientX - start.x, y: event.clientY - start.y, fits: false };
            draw();
          };
          pane.addEventListener("pointermove", move);
          pane.addEventListener("pointerup", () => pane.removeEventListener("pointermove", move), { once: true });
        });
      }
      for (const shape of all(".boxes rect", pictures)) {
        const row = document.getElementById(shape.dataset.for);
        row?.addEventListener("click", () => {
          mark(row);
          lookAt(shape);
        });
        shape.addEventListener("click", () => mark(row));
      }
      fit();
      const wanted = /^#show-(blend|difference)$/.exec(location.hash);
      if (wanted) show(wanted[1]);
      blend();
      addEventListener("resize", () => { if (at.fits) fit(); });
    }

    // What is jumped to stands below the bar, however high that is.
    const bar = one(".bar");
    new ResizeObserver(() => root.style.setProperty("--bar", bar.offsetHeight + "px")).observe(bar);

    showSwitches();
    followAddress();
    tell();
  });
})();
