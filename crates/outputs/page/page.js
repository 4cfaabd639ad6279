'use strict';
(() => {
  const words = JSON.parse(document.getElementById('words').textContent);
  const sheets = [...document.querySelectorAll('.sheet')];
  const facts = document.getElementById('facts');
  const find = document.getElementById('find');
  const said = document.getElementById('said');
  const [smaller, larger, fit, earlier, later, whole] =
    ['smaller', 'larger', 'fit', 'earlier', 'later', 'whole'].map((id) => document.getElementById(id));
  const counts = [document.getElementById('scale'), document.getElementById('step')];
  // In a site the page has more than the picture: its heading, its scrolling and its addresses are its own.
  const isSite = document.body.dataset.root !== undefined;
  const PART = 'svg :is([role=button], a[data-element])';
  let sheet = sheets[0];
  let trail = [sheet];

  document.body.classList.add('scripted');
  document.querySelectorAll('.tools').forEach((tools) => { tools.hidden = false; });

  const parts = (of = sheet) => [...of.querySelectorAll(PART)];
  const isElement = (part) => part.dataset.element !== undefined;
  const isLink = (part) => part.tagName === 'a';
  const called = (part) => part.getAttribute('aria-label');
  const byKey = (key) => (key === undefined ? undefined : parts().find((part) => part.dataset.element === key));
  const relations = () => parts().filter((part) => !isElement(part));
  const parentOf = (part) => part.dataset.parent ?? part.dataset.lane;
  const around = (key) => { const out = []; for (let at = byKey(key); at; at = byKey(parentOf(at))) out.push(at); return out; };
  const isInside = (part, key) => { for (let at = part; at; at = byKey(parentOf(at))) if (at.dataset.element === key) return true; return false; };

  // Pan, zoom, fit.
  const views = new Map();
  const readable = 0.5;
  let isFitted = false;
  function view() {
    const svg = sheet.querySelector('svg');
    if (!views.has(sheet)) {
      const field = sheet.querySelector('.field');
      const at = begun();
      const made = Panzoom(svg, { startScale: at.scale, startX: at.x, startY: at.y, canvas: true, minScale: 0.05, maxScale: 20, cursor: 'grab', overflow: 'hidden', step: 0.25, animate: false });
      field.addEventListener('wheel', (event) => { if (isSite && !event.ctrlKey && !event.metaKey) return; isFitted = false; made.zoomWithWheel(event); shown(); }, { passive: false });
      svg.addEventListener('panzoompan', () => { if (pressed) isFitted = false; });
      svg.addEventListener('panzoomchange', shown);
      views.set(sheet, made);
    }
    return views.get(sheet);
  }
  function size() {
    const box = sheet.querySelector('svg').viewBox.baseVal;
    const field = sheet.querySelector('.field').getBoundingClientRect();
    return { box, field };
  }
  function fitting() {
    const { box, field } = size();
    const scale = Math.min(field.width / box.width, field.height / box.height, 1.5);
    // The picture grows and shrinks around its middle.
    return { scale, x: (field.width - box.width) / 2 / scale, y: (field.height - box.height) / 2 / scale };
  }
  // A picture that would be too small to read begins at its upper edge.
  function begun() {
    const { box, field } = size();
    const whole = fitting();
    const scale = Math.min(field.width / box.width, 1);
    isFitted = whole.scale >= readable || scale <= whole.scale;
    if (isFitted) return whole;
    return { scale, x: whole.x * whole.scale / scale, y: box.height * (scale - 1) / 2 / scale };
  }
  function fitted(made) {
    isFitted = true;
    const at = fitting();
    made.zoom(at.scale, { force: true });
    made.pan(at.x, at.y, { force: true });
    shown();
  }
  function shown() {
    const made = views.get(sheet);
    if (made) counts[0].textContent = Math.round(made.getScale() * 100) + ' %';
  }
  function seen(part) {
    const made = view();
    if (isFitted) { fitted(made); return; }
    const field = sheet.querySelector('.field').getBoundingClientRect();
    const box = part.getBoundingClientRect();
    const [dx, dy] = [field.left + field.width / 2 - box.left - box.width / 2, field.top + field.height / 2 - box.top - box.height / 2];
    // What is seen in part can be read on from there.
    const isOut = box.right < field.left + 40 || box.left > field.right - 40 || box.bottom < field.top + 20 || box.top > field.bottom - 20;
    if (isOut) { const at = made.getPan(); made.pan(at.x + dx / made.getScale(), at.y + dy / made.getScale(), { force: true }); }
  }

  // What is chosen, and what it touches.
  let chosen = null;
  function clear() {
    chosen = null;
    sheet.classList.remove('choosing');
    parts().forEach((part) => { part.classList.remove('lit', 'chosen'); part.removeAttribute('aria-pressed'); part.removeAttribute('aria-current'); });
    facts.hidden = true;
    if (isFitted && views.has(sheet)) fitted(views.get(sheet));
  }
  function light(list) { list.forEach((part) => part && part.classList.add('lit')); }
  function choose(part, port) {
    clear();
    stop();
    chosen = part;
    sheet.classList.add('choosing');
    part.classList.add('chosen');
    part.setAttribute(isLink(part) ? 'aria-current' : 'aria-pressed', 'true');
    light(around(part.dataset.element ?? ''));
    let touching = [];
    if (port) {
      touching = relations().filter((relation) => portsOf(relation).some((own) => own.key === port.key && own.name === port.name));
      light(around(port.key));
    } else if (isElement(part)) {
      const key = part.dataset.element;
      const inner = parts().filter((other) => isElement(other) && isInside(other, key));
      light(inner);
      const ends = new Set(inner.map((other) => other.dataset.element));
      touching = relations().filter((relation) => ends.has(relation.dataset.from) || ends.has(relation.dataset.to));
    } else {
      touching = [part];
    }
    for (const relation of touching) {
      light([relation, ...around(relation.dataset.from), ...around(relation.dataset.to)]);
    }
    tell(part, touching, port);
    address(part);
    seen(part);
    tab(part);
  }
  function portsOf(relation) {
    const line = relation.querySelector(':scope > [data-role=line]');
    if (!line) return [];
    const length = line.getTotalLength();
    const [from, to] = [line.getPointAtLength(0), line.getPointAtLength(length)];
    return [...relation.querySelectorAll('[data-role=end-label]')].map((label) => {
      const box = label.getBBox();
      const off = (point) => Math.hypot(box.x + box.width / 2 - point.x, box.y + box.height / 2 - point.y);
      const key = off(from) <= off(to) ? relation.dataset.from : relation.dataset.to;
      return { label, key, name: label.textContent.trim() };
    });
  }
  function entry(part) {
    const item = document.createElement('li');
    const button = document.createElement('button');
    button.textContent = part.dataset.says ?? called(part);
    button.addEventListener('click', () => choose(part));
    item.append(button);
    return item;
  }
  function tell(part, touching, port) {
    const name = document.createElement('h2');
    name.textContent = port ? port.name : isElement(part) ? part.dataset.says : called(part);
    const kind = document.createElement('p');
    kind.textContent = port ? byKey(port.key)?.dataset.says ?? '' : isElement(part) ? called(part).split(', ').pop() : words.relation;
    facts.replaceChildren(name, kind);
    const target = part.dataset.opens && sheets.find((other) => other.dataset.name === part.dataset.opens);
    if (target && !port) {
      const button = document.createElement('button');
      button.className = 'inside';
      button.textContent = words.inside;
      button.addEventListener('click', () => enter(target));
      facts.append(button);
    }
    if (isLink(part) && !port) {
      const link = document.createElement('a');
      link.className = 'inside';
      link.href = part.getAttribute('href');
      link.textContent = words.open;
      facts.append(link);
    }
    const list = document.createElement('ul');
    if (isElement(part) || port) list.append(...touching.map(entry));
    else list.append(...[part.dataset.from, part.dataset.to].map(byKey).filter(Boolean).map(entry));
    if (list.children.length) facts.append(list);
    facts.hidden = false;
    said.textContent = called(part);
  }

  // Steps of a sequence, or of a scenario.
  let step = 0;
  const numbers = (part) => (part.dataset.steps ?? '').split(' ').filter(Boolean).map(Number);
  const lastStep = () => Math.max(0, ...relations().flatMap(numbers));
  function stop() {
    step = 0;
    sheet.classList.remove('stepping');
    relations().forEach((relation) => relation.classList.remove('past', 'now'));
    counted();
  }
  function counted() {
    const last = lastStep();
    document.getElementById('steps').hidden = last < 2;
    counts[1].textContent = step ? step + ' / ' + last : last + '';
    earlier.disabled = step < 1;
    later.disabled = step >= last;
    whole.disabled = step < 1;
  }
  function go(to) {
    clear();
    step = Math.min(Math.max(to, 0), lastStep());
    if (!step) { stop(); return; }
    sheet.classList.add('stepping');
    for (const relation of relations()) {
      const own = numbers(relation);
      relation.classList.toggle('past', own.some((number) => number <= step));
      relation.classList.toggle('now', own.includes(step));
      if (own.includes(step)) {
        if (view().getScale() < readable) { isFitted = false; view().zoom(1); }
        seen(relation); 
        said.textContent = step + ': ' + called(relation);
      }
    }
    counted();
  }

  // In and out.
  function enter(target, isStep = true) {
    clear();
    stop();
    const at = trail.indexOf(target);
    trail = at < 0 ? [...trail, target] : trail.slice(0, at + 1);
    sheet = target;
    sheets.forEach((other) => { other.hidden = other !== sheet; });
    const hash = '#' + encodeURIComponent(sheet.dataset.name);
    if (isStep && location.hash !== hash) history.pushState(null, '', hash);
    if (!isSite) titled();
    view();
    shown();
    counted();
    tab(parts()[0]);
  }
  function titled() {
    const title = document.getElementById('title');
    title.replaceChildren(...trail.map((one) => {
      const part = document.createElement('span');
      if (one === sheet) { part.textContent = one.dataset.title; return part; }
      const link = document.createElement('a');
      link.href = '#' + encodeURIComponent(one.dataset.name);
      link.textContent = one.dataset.title;
      part.append(link);
      return part;
    }));
    // The picture has its title; the way that led to it is what it lacks.
    title.classList.toggle('hint', trail.length < 2);
    document.title = sheet.dataset.title;
  }
  // `#picture`, or `#picture/element`.
  function addressed() {
    const [name, key] = location.hash.slice(1).split('/').map(decodeURIComponent);
    const target = sheets.find((other) => other.dataset.name === name) ?? sheets[0];
    if (target !== sheet) enter(target, false);
    const part = key && byKey(key);
    if (part && part !== chosen) choose(part);
  }
  function address(part) {
    const name = encodeURIComponent(sheet.dataset.name);
    const key = part && isElement(part) ? '/' + encodeURIComponent(part.dataset.element) : '';
    if (key || location.hash.includes('/')) history.replaceState(null, '', '#' + name + key);
  }
  addEventListener('hashchange', addressed);
  addEventListener('popstate', addressed);

  // Find.
  let found = [];
  function search() {
    const wanted = find.value.trim().toLowerCase();
    found = wanted ? parts().filter((part) => called(part).toLowerCase().includes(wanted)) : [];
    // Elements come before relations that speak of them.
    found.sort((a, b) => isElement(b) - isElement(a));
    if (!wanted) { clear(); said.textContent = ''; return; }
    if (!found.length) { clear(); said.textContent = words.nothing; return; }
    choose(found[0]);
    if (found.length > 1) said.textContent = found.length + ': ' + called(found[0]);
  }
  find.addEventListener('input', search);
  find.addEventListener('keydown', (event) => {
    if (event.key !== 'Enter' || !found.length) return;
    event.preventDefault();
    const at = found.indexOf(chosen);
    choose(found[(at + (event.shiftKey ? found.length - 1 : 1)) % found.length]);
  });

  // Keys: one part can be reached by Tab, the arrows lead from part to part.
  function tab(part) {
    parts().forEach((other) => other.setAttribute('tabindex', other === part ? '0' : '-1'));
  }
  function beside(part, key) {
    const middle = (of) => { const box = of.getBoundingClientRect(); return [box.left + box.width / 2, box.top + box.height / 2]; };
    const [x, y] = middle(part);
    const [ux, uy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
    let best = null;
    for (const other of parts()) {
      const [ox, oy] = middle(other);
      const along = (ox - x) * ux + (oy - y) * uy;
      if (other === part || along < 1) continue;
      const cost = along + 2 * Math.abs((ox - x) * uy + (oy - y) * ux);
      if (!best || cost < best.cost) best = { other, cost };
    }
    return best && best.other;
  }
  document.addEventListener('keydown', (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const part = event.target.closest && event.target.closest(PART);
    if (event.key === 'Escape') { find.value = ''; clear(); stop(); return; }
    if (part && (event.key === 'Enter' || event.key === ' ')) {
      event.preventDefault();
      const target = part === chosen && sheets.find((other) => other.dataset.name === part.dataset.opens);
      if (target) enter(target);
      else if (part === chosen && isLink(part)) location.href = part.getAttribute('href');
      else choose(part);
      return;
    }
    if (part && event.key.startsWith('Arrow')) {
      event.preventDefault();
      const next = beside(part, event.key);
      if (next) { tab(next); next.focus({ preventScroll: true }); seen(next); }
      return;
    }
    if (event.target.matches('input')) return;
    if (event.key === '/' && !isSite) { event.preventDefault(); find.focus(); }
    if (event.key === '+') zoomed('zoomIn');
    if (event.key === '-') zoomed('zoomOut');
    if (event.key === '0') fitted(view());
    if (event.key === 'n') go(step + 1);
    if (event.key === 'p') go(step - 1);
  });

  // The pointer: a click chooses, a drag moves the picture.
  let pressed = null;
  document.addEventListener('pointerdown', (event) => { pressed = [event.clientX, event.clientY]; }, true);
  for (const one of sheets) {
    one.querySelector('.field').addEventListener('click', (event) => {
      const part = event.target.closest(PART);
      const isNewTab = event.ctrlKey || event.metaKey || event.shiftKey;
      if (part && isLink(part) && isNewTab) return;
      if (pressed && Math.hypot(event.clientX - pressed[0], event.clientY - pressed[1]) > 4) { event.preventDefault(); return; }
      // A link that is chosen is followed.
      if (part && isLink(part)) { if (part === chosen) return; event.preventDefault(); }
      if (!part) { clear(); address(null); return; }
      const end = event.target.closest('[data-role=end-label]');
      choose(part, end && portsOf(part).find((port) => port.label === end));
    });
    one.querySelector('.field').addEventListener('dragstart', (event) => event.preventDefault());
    one.querySelector('.field').addEventListener('dblclick', (event) => {
      const part = event.target.closest(PART);
      const target = part && sheets.find((other) => other.dataset.name === part.dataset.opens);
      if (target) enter(target);
    });
  }
  const zoomed = (how) => { isFitted = false; view()[how](); shown(); };
  smaller.addEventListener('click', () => zoomed('zoomOut'));
  larger.addEventListener('click', () => zoomed('zoomIn'));
  fit.addEventListener('click', () => fitted(view()));
  earlier.addEventListener('click', () => go(step - 1));
  later.addEventListener('click', () => go(step + 1));
  whole.addEventListener('click', stop);
  addEventListener('pointerup', () => setTimeout(() => { pressed = null; }));
  addEventListener('resize', () => { if (isFitted) fitted(view()); });

  if (isSite) {
    // As high as the picture is at the width that there is, and never so high that it cannot be seen whole.
    const field = sheet.querySelector('.field');
    const sized = () => {
      const box = sheet.querySelector('svg').viewBox.baseVal;
      const high = box.height * Math.min(field.clientWidth / box.width, 1.5);
      field.style.height = Math.round(Math.max(200, Math.min(high, innerHeight * 0.72))) + 'px';
    };
    sized();
    addEventListener('resize', sized);
  }
  enter(sheet, false);
  addressed();
})();
