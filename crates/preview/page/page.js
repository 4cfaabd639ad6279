'use strict';
(() => {
  const {
    Compartment, EditorSelection, EditorState, StateEffect, StateField, Decoration, EditorView,
    drawSelection, highlightActiveLine, highlightActiveLineGutter, highlightSpecialChars, hoverTooltip, keymap, lineNumbers,
    placeholder, codeFolding, foldGutter, foldKeymap, foldService, indentUnit, defaultKeymap, history, historyKeymap, indentLess,
    indentMore, isolateHistory, undo, autocompletion, closeBrackets, closeBracketsKeymap, completionKeymap,
    setDiagnostics, lintKeymap, search, searchKeymap, highlightSelectionMatches,
  } = Editor;
  const by = (id) => document.getElementById(id);
  const [field, sheet, said, told, stateNote, notice, findings, empty] =
    ['field', 'sheet', 'said', 'told', 'state', 'notice', 'findings', 'empty'].map(by);
  const style = new CSSStyleSheet();
  document.adoptedStyleSheets = [...document.adoptedStyleSheets, style];

  // Questions to the server.
  class Refused extends Error {}
  async function ask(name, body = {}, as = 'json') {
    let response;
    try {
      response = await fetch(name, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) });
    } catch {
      throw new Refused('The preview has ended. Start `bathygram preview` again; your text is still here.');
    }
    if (!response.ok) throw new Refused((await response.json().catch(() => ({}))).refused ?? 'That did not work.');
    return as === 'json' ? response.json() : response.blob();
  }
  function tell(text, isWrong = false, buttons = []) {
    notice.replaceChildren(text);
    for (const [label, act] of buttons) {
      const button = document.createElement('button');
      button.textContent = label;
      button.addEventListener('click', () => { notice.hidden = true; act(); });
      notice.append(button);
    }
    const close = document.createElement('button');
    close.textContent = 'Close';
    close.className = 'end';
    close.addEventListener('click', () => { notice.hidden = true; });
    if (!buttons.length) notice.append(close);
    notice.classList.toggle('wrong', isWrong);
    notice.hidden = !text;
  }
  const failed = (why) => { if (why instanceof Refused) tell(why.message, true); else throw why; };

  // What is open.
  const pageName = Array.from(crypto.getRandomValues(new Uint8Array(9)), (b) => b.toString(36)).join('');
  const open = new Map();
  let project = { files: [], themes: [], starters: [] };
  let file = null;
  let picture = null;
  let trail = [];
  let theme = null;
  const now = () => open.get(file);
  const text = () => view.state.doc.toString();
  const isDirty = (one = now()) => Boolean(one) && one.saved !== (one === now() ? text() : one.state.doc.toString());

  // The editor.
  // Marks that an effect sets, and that move with the text.
  const marked = (set) => StateField.define({
    create: () => Decoration.none,
    update(found, change) {
      found = found.map(change.changes);
      for (const effect of change.effects) if (effect.is(set)) found = effect.value;
      return found;
    },
    provide: (own) => EditorView.decorations.from(own),
  });
  const [setTokens, point] = [StateEffect.define(), StateEffect.define()];
  const [tokens, pointed] = [marked(setTokens), marked(point)];
  const marks = Object.fromEntries(['keyword', 'kind', 'verb', 'property', 'block', 'element', 'text', 'number', 'comment']
    .map((name) => [name, Decoration.mark({ class: 'w-' + name })]));
  const pointedLine = Decoration.line({ class: 'pointed' });
  let folds = [];
  const looks = EditorView.theme({
    '&': { backgroundColor: 'var(--paper)', color: 'var(--ink)' },
    '.cm-gutters': { backgroundColor: 'var(--paper)', color: 'var(--quiet)', border: 'none', paddingLeft: '6px' },
    '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'color-mix(in srgb, var(--accent) 8%, transparent)' },
    '.cm-cursor': { borderLeftColor: 'var(--ink)', borderLeftWidth: '2px' },
    '&.cm-focused': { outline: 'none' },
    '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': { backgroundColor: 'color-mix(in srgb, var(--accent) 28%, transparent) !important' },
    '.cm-tooltip': { backgroundColor: 'var(--paper)', color: 'var(--ink)', border: '1px solid var(--edge)', borderRadius: '6px', maxWidth: '460px' },
    '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--accent)', color: 'var(--paper)' },
    '.cm-completionDetail': { fontStyle: 'normal', color: 'var(--quiet)' },
    'li[aria-selected] .cm-completionDetail': { color: 'inherit' },
    '.cm-diagnostic-error': { borderLeftColor: 'var(--error)' },
    '.cm-panels': { backgroundColor: 'var(--desk)', color: 'var(--ink)' },
    '.cm-placeholder': { color: 'var(--quiet)', whiteSpace: 'pre' },
    '.hover': { padding: '6px 10px', fontFamily: "'Fira Sans', system-ui, sans-serif", whiteSpace: 'pre-wrap' },
    '.w-keyword': { color: 'var(--accent)', fontWeight: '600' }, '.w-kind': { color: 'var(--w-kind)' }, '.w-verb': { color: 'var(--w-verb)' },
    '.w-property': { color: 'var(--w-property)' }, '.w-block': { fontWeight: '600' }, '.w-text': { color: 'var(--w-text)' },
    '.w-number': { color: 'var(--w-number)' }, '.w-comment': { color: 'var(--quiet)', fontStyle: 'italic' },
  });
  const example = 'sequence first "A warning reaches the keeper"\n  buoy sends gateway "level 4.2 m"\n  gateway calls desk "raise warning"\n  desk sends keeper "call-out"';
  const locked = new Compartment();
  function extensions() {
    return [
      lineNumbers(), highlightActiveLineGutter(), highlightSpecialChars(), history(),
      foldGutter({ foldingChanged: (update) => update.transactions.some((one) => one.effects.some((effect) => effect.is(setTokens))) }), codeFolding(), drawSelection(),
      EditorState.allowMultipleSelections.of(true), highlightActiveLine(), highlightSelectionMatches(), search({ top: true }),
      closeBrackets(), indentUnit.of('  '), EditorView.cspNonce.of(document.body.dataset.nonce), looks, tokens, pointed,
      placeholder(example), EditorView.contentAttributes.of({ 'aria-label': 'Text of the diagram', tabindex: '0' }),
      EditorState.languageData.of(() => [{ commentTokens: { line: '//' }, closeBrackets: { brackets: ['"', '('] } }]),
      foldService.of((state, from) => {
        const line = state.doc.lineAt(from).number;
        const fold = folds.find(([first]) => first === line);
        return fold && fold[1] <= state.doc.lines ? { from: state.doc.line(line).to, to: state.doc.line(fold[1]).to } : null;
      }),
      autocompletion({ override: [complete], icons: false }), hoverTooltip(hover), locked.of(EditorState.readOnly.of(false)),
      keymap.of([
        { key: 'Mod-s', run: () => { save().catch(failed); return true; }, preventDefault: true },
        { key: 'Mod-Shift-f', run: () => { tidy().catch(failed); return true; }, preventDefault: true },
        { key: 'F2', run: () => { rename().catch(failed); return true; } },
        { key: 'Tab', run: indentMore, shift: indentLess },
        { key: 'Enter', run: newline },
        ...closeBracketsKeymap, ...defaultKeymap, ...searchKeymap, ...historyKeymap, ...foldKeymap, ...completionKeymap, ...lintKeymap,
      ]),
      EditorView.updateListener.of(updated),
    ];
  }
  // A new line is indented as the one before it, and further below what begins a body.
  function newline(target) {
    const { state } = target;
    const change = state.changeByRange((range) => {
      const line = state.doc.lineAt(range.from);
      const before = line.text.slice(0, range.from - line.from);
      const indent = /^\s*/.exec(before)[0];
      const opens = indent === '' && /^(sequence|classes|flow|states|architecture|network|tree|sheet|look)\b/.test(before);
      const insert = '\n' + indent + (opens ? '  ' : '');
      return { changes: { from: range.from, to: range.to, insert }, range: EditorSelection.cursor(range.from + insert.length) };
    });
    target.dispatch(state.update(change, { scrollIntoView: true, userEvent: 'input' }));
    return true;
  }
  async function complete(context) {
    const word = context.matchBefore(/[\w\-.`]*/);
    if (!context.explicit && !word?.text) return null;
    const found = await ask('complete', { file, text: context.state.doc.toString(), at: context.pos }).catch(() => []);
    if (!found.length || context.aborted) return null;
    const from = found[0].edit[0].from;
    const options = found.map((one, i) => ({ label: one.label, type: one.kind, detail: one.about, apply: one.edit[0].insert, boost: -i / 100 }));
    return { from, options, validFor: /^[\w\-]*$/ };
  }
  async function hover(target, pos) {
    const found = await ask('hover', { file, text: target.state.doc.toString(), at: pos }).catch(() => null);
    if (!found) return null;
    return { pos: found.from, end: found.to, above: true, create: () => ({ dom: described(found.markdown) }) };
  }
  // The few signs of Markdown that descriptions use.
  function described(markdown) {
    const box = document.createElement('div');
    box.className = 'hover';
    const pattern = /\*\*(.+?)\*\*|`([^`]+)`|\[([^\]]+)\]\([^)]*\)|\\([^\w\s])/g;
    let at = 0;
    for (const match of markdown.matchAll(pattern)) {
      box.append(markdown.slice(at, match.index));
      const part = document.createElement(match[1] ? 'strong' : match[2] ? 'code' : 'span');
      part.textContent = match[1] ?? match[2] ?? match[3] ?? match[4];
      box.append(part);
      at = match.index + match[0].length;
    }
    box.append(markdown.slice(at));
    return box;
  }
  const view = new EditorView({ state: EditorState.create({ extensions: [EditorView.cspNonce.of(document.body.dataset.nonce)] }), parent: by('editor') });

  // Drawing: each text at once, and as it will be kept once typing rests.
  const rest = 450;
  let number = 0;
  let resting = 0;
  let changes = [];
  let drawn = { doc: null, file: null, count: 0, hasErrors: false, svg: null };
  function updated(update) {
    if (update.docChanged) {
      if (!update.transactions.some((one) => one.isUserEvent('nudge'))) say('');
      changes.push({ number, change: update.changes });
      draw(false);
      shownState();
    }
    if (update.selectionSet || update.docChanged) markCaret();
    if (update.viewportChanged && !update.docChanged) rested(120);
  }
  function rested(after = rest) {
    clearTimeout(resting);
    resting = setTimeout(() => draw(true), after);
  }
  async function draw(isRest) {
    if (!now()) return;
    const own = ++number;
    if (!isRest) rested();
    const doc = view.state.doc;
    const body = {
      page: pageName, number: own, file, text: doc.toString(), picture, caret: view.state.selection.main.head, theme, rest: isRest,
      seen: [view.viewport.from, view.viewport.to],
    };
    let answer;
    try { answer = await ask('draw', body); } catch (why) { failed(why); return; }
    if (answer === 'old' || own < number && isRest || body.file !== file) return;
    const found = answer.drawn;
    changes = changes.filter((change) => change.number >= own);
    show(found, doc, isRest);
    // The picture comes first; words take their colours a moment later.
    if (own === number) requestAnimationFrame(() => setTimeout(() => annotate(found, doc)));
  }
  // Words and findings stand in the text that was drawn: if it is another one by now, they come with the next answer.
  function annotate(found, doc) {
    if (view.state.doc !== doc) return;
    folds = found.folds;
    const words = found.tokens.filter(([from, to]) => from < to && to <= doc.length).map(([from, to, what]) => marks[what].range(from, to));
    const listed = found.findings.map((one) => ({
      from: Math.min(one.from, doc.length), to: Math.min(Math.max(one.to, one.from), doc.length),
      severity: one.severity === 'error' ? 'error' : 'warning', message: one.message + (one.help ? '\n' + one.help : ''), source: one.rule,
      actions: one.fixes.map((fix) => ({ name: fix.title, apply: () => make(fix.edits) })),
    }));
    view.dispatch({ effects: setTokens.of(Decoration.set(words, true)) });
    view.dispatch(setDiagnostics(view.state, listed));
    list(found.findings);
  }
  function make(edits, about = 'input.fix') {
    const wanted = edits.map(({ from, to, insert }) => ({ from, to, insert }));
    view.dispatch({ changes: wanted, userEvent: about, annotations: isolateHistory.of('full'), scrollIntoView: false });
  }
  function list(all) {
    const entries = document.createElement('ol');
    for (const one of all) {
      const item = document.createElement('li');
      item.className = one.severity;
      const line = document.createElement('span');
      line.className = 'line';
      line.textContent = one.file ? '' : one.line;
      const go = document.createElement('button');
      go.className = 'go';
      const what = document.createElement('span');
      what.className = 'what';
      what.textContent = one.severity + ' ';
      const help = document.createElement('span');
      help.className = 'note';
      help.textContent = one.help ?? '';
      go.append(what, (one.file ? one.file + ':' + one.line + ': ' : '') + one.message, help);
      go.addEventListener('click', () => { caretTo(one.from); view.focus(); });
      item.append(line, go);
      for (const fix of one.fixes.slice(0, 1)) {
        const button = document.createElement('button');
        button.className = 'fix';
        button.textContent = fix.title;
        button.addEventListener('click', () => { make(fix.edits); view.focus(); });
        item.append(button);
      }
      entries.append(item);
    }
    findings.replaceChildren(entries);
    findings.hidden = !all.length;
  }

  // The picture.
  const pan = Panzoom(sheet, { canvas: true, origin: '0 0', minScale: 0.03, maxScale: 20, step: 0.25, animate: false, cursor: '', overflow: '',
    handleStartEvent: (event) => { if (dragging) event.stopImmediatePropagation(); } });
  let isFitted = true;
  const svg = () => sheet.firstElementChild;
  const parts = () => [...sheet.querySelectorAll('[role=button]')];
  const byKey = (key) => (key === undefined ? null : sheet.querySelector('[data-element="' + CSS.escape(key) + '"]'));
  const byRelation = (key) => sheet.querySelector('[data-relation="' + CSS.escape(key) + '"]');
  const size = () => { const box = svg().viewBox.baseVal; return { w: box.width, h: box.height }; };
  function fit() {
    isFitted = true;
    if (!svg()) return;
    const { w, h } = size();
    const margin = document.body.classList.contains('presenting') ? 24 : 20;
    const [fw, fh] = [field.clientWidth - 2 * margin, field.clientHeight - 2 * margin];
    const most = document.body.classList.contains('presenting') ? 3 : 1.25;
    let scale = Math.max(Math.min(fw / w, fh / h, most), 0.03);
    // Too small to read: as wide as it can be, from its upper edge.
    const readable = Math.min(fw / w, 0.8);
    const isTall = scale < 0.45 && readable > scale && !document.body.classList.contains('presenting');
    if (isTall) scale = readable;
    pan.zoom(scale, { force: true });
    pan.pan((field.clientWidth - w * scale) / 2 / scale, isTall ? margin / scale : (field.clientHeight - h * scale) / 2 / scale, { force: true });
    scaled();
  }
  const scaled = () => { by('scale').textContent = Math.round(pan.getScale() * 100) + ' %'; };
  sheet.addEventListener('panzoomchange', scaled);
  sheet.addEventListener('panzoomstart', () => { isFitted = isFitted && !held; });
  sheet.addEventListener('panzoompan', () => { if (held) isFitted = false; });
  let held = false;
  addEventListener('pointerdown', () => { held = true; }, true);
  addEventListener('pointerup', () => { held = false; }, true);
  field.addEventListener('wheel', (event) => { isFitted = false; pan.zoomWithWheel(event); }, { passive: false });
  // What stays in the picture stays on the screen, too.
  function anchor() {
    const middle = field.getBoundingClientRect();
    const [x, y] = [middle.left + middle.width / 2, middle.top + middle.height / 2];
    let best = null;
    for (const part of sheet.querySelectorAll('[data-element]')) {
      const box = part.getBoundingClientRect();
      const off = Math.hypot(box.left + box.width / 2 - x, box.top + box.height / 2 - y);
      if (!best || off < best.off) best = { off, key: part.dataset.element, left: box.left, top: box.top };
    }
    return best;
  }
  let shownPicture = null;
  function show(found, doc, isRest) {
    const isOther = drawn.file !== file || found.picture !== null && found.picture !== shownPicture;
    // A line that is being typed must not take away what it is about.
    const isLess = found.errors > 0 && !isOther && (found.svg === null || found.count < drawn.count) && !isRest;
    by('held').hidden = !(found.errors > 0 && (isLess || found.svg === null && drawn.svg !== null && !isOther));
    choices(found.pictures, found.picture);
    if (found.style !== null) style.replaceSync(found.style);
    if (isLess || found.svg === null && drawn.svg !== null && !isOther && found.errors > 0) return;
    drawn = { doc, file, count: found.count, svg: found.svg, number };
    shownPicture = found.picture ?? shownPicture;
    if (comparing) return;
    put(found.svg, isOther, isRest);
    empty.hidden = found.svg !== null;
    empty.textContent = found.errors ? 'The text has errors that leave no picture; they are listed below it.' : 'Write a first line, such as “sequence first”, and the picture appears here.';
  }
  function put(markup, isOther, isRest) {
    const stays = !isOther && svg() && !(isFitted && isRest) ? anchor() : null;
    const chosen = [...sheet.querySelectorAll('.over')].map((part) => part.dataset.element ?? part.dataset.relation);
    const focused = document.activeElement?.closest?.('#sheet [role=button]')?.dataset;
    putBack();
    if (!markup) { sheet.replaceChildren(); return; }
    patch(markup);
    const { w, h } = size();
    sheet.style.width = w + 'px';
    sheet.style.height = h + 'px';
    document.body.style.setProperty('--ground', svg().querySelector('rect')?.getAttribute('fill') ?? '');
    if (isOther || !stays) fit();
    const same = stays && byKey(stays.key);
    if (same) {
      const box = same.getBoundingClientRect();
      const at = pan.getPan();
      const scale = pan.getScale();
      pan.pan(at.x + (stays.left - box.left) / scale, at.y + (stays.top - box.top) / scale, { force: true });
    }
    chosen.forEach((key) => (byKey(key) ?? byRelation(key))?.classList.add('over'));
    const again = focused && (byKey(focused.element) ?? (focused.relation && byRelation(focused.relation)));
    tab(again ?? parts()[0]);
    again?.focus({ preventScroll: true });
    markCaret();
    counted();
  }
  // Parts of a picture that are written as before stay the nodes that they are: what did not change is not laid out again.
  function patch(markup) {
    const [head, ...now_] = pieces(markup);
    const shell = document.createElement('div');
    shell.innerHTML = head + '</svg>';
    const fresh_ = shell.firstElementChild;
    let root = svg();
    if (!root) { sheet.replaceChildren(fresh_); root = fresh_; root.pieces = []; }
    for (const { name, value } of fresh_.attributes) if (root.getAttribute(name) !== value) root.setAttribute(name, value);
    const old = root.pieces;
    let first = 0;
    while (first < old.length && first < now_.length && old[first] === now_[first]) first += 1;
    let last = 0;
    while (last < Math.min(old.length, now_.length) - first && old[old.length - 1 - last] === now_[now_.length - 1 - last]) last += 1;
    const known = new Map();
    const leaving = [...root.children].slice(first, old.length - last);
    leaving.forEach((node, i) => { const key = old[first + i]; known.set(key, [...(known.get(key) ?? []), node]); });
    const wanted = now_.slice(first, now_.length - last).map((piece) => known.get(piece)?.shift() ?? piece);
    const parser = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    parser.innerHTML = wanted.filter((one) => typeof one === 'string').join('');
    const made = [...parser.children];
    const nodes = wanted.map((one) => (typeof one === 'string' ? made.shift() : one));
    const stay = new Set(nodes);
    leaving.forEach((node) => { if (!stay.has(node)) node.remove(); });
    let at = root.children[first] ?? null;
    for (const node of nodes) { if (node === at) at = at.nextElementSibling; else root.insertBefore(node, at); }
    root.pieces = now_;
  }
  // The first line of a picture, and then each of its outermost parts.
  function pieces(markup) {
    const found = [];
    let depth = 0;
    for (const line of markup.split('\n')) {
      if (line === '' || line === '</svg>') continue;
      if (depth > 0 || !line.startsWith('<')) found[found.length - 1] += '\n' + line; else found.push(line);
      if (line.startsWith('<g')) depth += 1; else if (line.startsWith('</g>')) depth -= 1;
    }
    return found;
  }
  function choices(pictures, current) {
    const select = by('picture');
    const key = JSON.stringify(pictures.map((one) => [one.name, one.title]));
    if (select.dataset.key !== key) {
      select.dataset.key = key;
      select.replaceChildren(...pictures.map((one) => new Option(one.title, one.name)));
    }
    // The inside of an element is not among the pictures of the text.
    select.querySelectorAll('[data-inside]').forEach((option) => option.remove());
    if (current && !pictures.some((one) => one.name === current)) {
      const option = new Option(current.split('/').pop().replaceAll('.', ' › '), current);
      option.dataset.inside = 'yes';
      select.append(option);
    }
    if (current) select.value = current;
    select.disabled = select.options.length < 2;
    select.hidden = !pictures.length;
  }
  function goTo(name, isBack = false) {
    if (!isBack && shownPicture) trail.push({ file, picture: shownPicture });
    by('back').hidden = !trail.length;
    picture = name;
    stop();
    draw(true);
  }
  by('picture').addEventListener('change', (event) => { trail = []; by('back').hidden = true; picture = event.target.value; stop(); draw(true); });
  by('back').addEventListener('click', async () => {
    const last = trail.pop();
    if (last.file !== file) await show_file(last.file, last.picture);
    goTo(last.picture, true);
  });
  by('smaller').addEventListener('click', () => { isFitted = false; pan.zoomOut({ focal: middle() }); });
  by('larger').addEventListener('click', () => { isFitted = false; pan.zoomIn({ focal: middle() }); });
  by('fit').addEventListener('click', fit);
  const middle = () => ({ x: field.clientWidth / 2, y: field.clientHeight / 2 });
  new ResizeObserver(() => { if (isFitted) fit(); }).observe(field);

  // Pointing both ways.
  const linesOf = (part) => (part.dataset.lines ?? part.dataset.line ?? '').split(' ').filter(Boolean).map(Number);
  const isOwn = (part) => part.dataset.file === undefined;
  // A line of the text that was drawn, in the text as it is now.
  function place(line) {
    if (!drawn.doc || line < 1 || line > drawn.doc.lines) return null;
    let at = drawn.doc.line(line).from;
    for (const { change } of changes) { if (change.length >= at) at = change.mapPos(at, -1); }
    return Math.min(at, view.state.doc.length);
  }
  function pointAt(part) {
    const lines = part && isOwn(part) ? linesOf(part).map(place).filter((at) => at !== null) : [];
    const starts = [...new Set(lines.map((at) => view.state.doc.lineAt(at).from))].sort((a, b) => a - b);
    view.dispatch({ effects: point.of(Decoration.set(starts.map((from) => pointedLine.range(from)))) });
  }
  function over(part) {
    sheet.querySelectorAll('.over').forEach((one) => one.classList.remove('over'));
    part?.classList.add('over');
    pointAt(part);
    const called = part?.getAttribute('aria-label') ?? part?.closest('[role=button]')?.getAttribute('aria-label');
    said.textContent = part ? (called ?? '') + (isOwn(part) ? '' : ' · ' + part.dataset.file) : '';
  }
  sheet.addEventListener('pointerover', (event) => { if (!dragging) over(event.target.closest('[data-line]')); });
  field.addEventListener('pointerleave', () => { if (!dragging) over(null); });
  function caretTo(at) {
    view.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) });
  }
  function choose(part) {
    if (!isOwn(part)) {
      tell('This is written in ' + part.dataset.file + ', line ' + part.dataset.line + '.', false,
        [['Open it', () => show_file(part.dataset.file).catch(failed)], ['Stay', () => {}]]);
      return;
    }
    const at = linesOf(part).map(place).find((one) => one !== null);
    if (at !== undefined) caretTo(view.state.doc.lineAt(at).from + /^\s*/.exec(view.state.doc.lineAt(at).text)[0].length);
    tab(part.closest('[role=button]'));
  }
  function markCaret() {
    const line = view.state.doc.lineAt(view.state.selection.main.head).from;
    sheet.querySelectorAll('.at').forEach((part) => part.classList.remove('at'));
    if (!svg() || drawn.file !== file) return;
    const meant = [...sheet.querySelectorAll('[data-line]')].filter((part) => isOwn(part)
      && linesOf(part).some((own) => { const at = place(own); return at !== null && view.state.doc.lineAt(at).from === line; }));
    meant.forEach((part) => part.classList.add('at'));
  }

  // Dragging.
  let dragging = null;
  const parentOf = (part) => part.dataset.parent ?? part.dataset.lane;
  const isInside = (part, key) => { for (let at = part; at; at = byKey(parentOf(at))) if (at.dataset.element === key) return true; return false; };
  sheet.addEventListener('pointerdown', (event) => {
    const part = event.target.closest('[data-element][role=button]');
    if (!part || event.button !== 0 || comparing || step) return;
    // A large frame is a ground to move the picture by; its edge and its title are the frame.
    const isFrame = part.dataset.container !== undefined;
    if (isFrame && event.target.tagName !== 'text' && !nearEdge(part, event)) return;
    dragging = { part, key: part.dataset.element, x: event.clientX, y: event.clientY, moved: false, id: event.pointerId };
    event.stopPropagation();
  });
  function nearEdge(part, event) {
    const box = (part.querySelector(':scope > [data-role=frame]') ?? part).getBoundingClientRect();
    const off = Math.min(event.clientX - box.left, box.right - event.clientX, event.clientY - box.top, box.bottom - event.clientY);
    return off < 10;
  }
  addEventListener('pointermove', (event) => {
    if (!dragging || event.pointerId !== dragging.id) return;
    const by = [(event.clientX - dragging.x) / pan.getScale(), (event.clientY - dragging.y) / pan.getScale()];
    if (!dragging.moved && Math.hypot(event.clientX - dragging.x, event.clientY - dragging.y) < 5) return;
    dragging.moved = true;
    dragging.by = by;
    moved(dragging.key, by);
  });
  // What is dragged is shown above all else; what it was stays, paler, until the picture is drawn anew.
  let ghost = null;
  function moved(key, [dx, dy]) {
    if (!ghost) {
      ghost = document.createElementNS('http://www.w3.org/2000/svg', 'g');
      ghost.setAttribute('class', 'ghost');
      for (const part of [...sheet.querySelectorAll('[data-element]')].filter((own) => isInside(own, key))) {
        const copy = part.cloneNode(true);
        for (const name of ['data-element', 'role', 'tabindex', 'data-line']) copy.removeAttribute(name);
        ghost.append(copy);
        part.classList.add('dragged');
      }
      ghost.setAttribute('aria-hidden', 'true');
      svg().append(ghost);
    }
    ghost.setAttribute('transform', 'translate(' + dx + ' ' + dy + ')');
    const box = ghost.getBoundingClientRect();
    const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
    sheet.querySelectorAll('.target').forEach((part) => part.classList.remove('target'));
    const holders = [...sheet.querySelectorAll('[data-container]')].filter((part) => !isInside(part, key) && holds(part, x, y));
    const innermost = holders.sort((a, b) => area(a) - area(b))[0];
    if (innermost && innermost.dataset.element !== parentOf(byKey(key))) innermost.classList.add('target');
  }
  const frameBox = (part) => (part.querySelector(':scope > [data-role=frame]') ?? part).getBoundingClientRect();
  const holds = (part, x, y) => { const box = frameBox(part); return box.left < x && x < box.right && box.top < y && y < box.bottom; };
  const area = (part) => { const box = frameBox(part); return box.width * box.height; };
  function putBack() {
    ghost?.remove();
    ghost = null;
    sheet.querySelectorAll('.dragged').forEach((part) => part.classList.remove('dragged'));
    sheet.querySelectorAll('.target').forEach((part) => part.classList.remove('target'));
  }
  addEventListener('pointerup', (event) => {
    if (!dragging || event.pointerId !== dragging.id) return;
    const { part, key, moved: hasMoved, by: far } = dragging;
    dragging = null;
    if (hasMoved) nudge(key, far).catch(failed);
    else choose(event.target.closest?.('[data-line]') ?? part);
  });
  addEventListener('pointercancel', () => { dragging = null; putBack(); });
  sheet.addEventListener('click', (event) => {
    const part = event.target.closest('[data-line]');
    if (part && !part.matches('[data-element][role=button]')) choose(part);
  });
  sheet.addEventListener('dblclick', (event) => {
    const part = event.target.closest('[data-opens]');
    if (part) goTo(part.dataset.opens);
  });
  async function nudge(key, far) {
    const doc = view.state.doc;
    const body = { file, text: doc.toString(), picture: shownPicture, key, by: far, theme };
    try {
      const found = await ask('nudge', body);
      if (view.state.doc !== doc) { putBack(); tell('The text changed meanwhile; drag it once more.', true); return; }
      clearTimeout(resting);
      if (now().isLocked) {
        const changed = view.state.changes(found.edits.map(({ from, to, insert }) => ({ from, to, insert })));
        const answer = await ask('save', { file, text: changed.apply(doc).toString(), base: now().base });
        if (answer === 'handed') say(['Written in the editor: ' + found.written, ...found.notes].join('; '));
        else { putBack(); say('The text changed meanwhile; drag it once more.'); }
        return;
      }
      const first = found.edits.findLast((edit) => edit.insert);
      make(found.edits, 'nudge');
      // A nudge is drawn as it will be kept: nothing else moves.
      isFitted = false;
      draw(true);
      if (first) caretTo(written(found.edits, first));
      say(['Written: ' + found.written, ...found.notes].join('; '));
    } catch (why) {
      putBack();
      if (why instanceof Refused) say('Not moved: ' + why.message); else throw why;
    }
  }
  // Where an edit ends once all of them are made.
  function written(edits, one) {
    const before = edits.filter((edit) => edit.to <= one.from && edit !== one);
    const moved_ = before.reduce((sum, edit) => sum + edit.insert.length - (edit.to - edit.from), 0);
    return Math.min(one.from + moved_ + one.insert.length, view.state.doc.length);
  }
  const say = (sentence) => { told.textContent = sentence; };

  // Steps of a sequence, or of a scenario.
  let step = 0;
  const relations = () => [...sheet.querySelectorAll('[data-relation]')];
  const numbers = (part) => (part.dataset.steps ?? '').split(' ').filter(Boolean).map(Number);
  const lastStep = () => Math.max(0, ...relations().flatMap(numbers));
  function stop() { if (step) say(''); step = 0; stepped(); }
  function stepped() {
    document.body.classList.toggle('stepping', step > 0);
    for (const relation of relations()) {
      const own = numbers(relation);
      relation.classList.toggle('past', own.some((one) => one <= step));
      relation.classList.toggle('now', own.includes(step));
      if (step && own.includes(step)) {
        say(step + ' of ' + lastStep() + ': ' + relation.getAttribute('aria-label'));
        // A long sequence on a screen is followed from near.
        const near = Math.min((field.clientWidth - 48) / size().w, 1);
        if (isPresenting() && pan.getScale() < 0.75 && near > pan.getScale()) { isFitted = false; pan.zoom(near, { force: true }); pan.pan((field.clientWidth - size().w * near) / 2 / near, 24 / near, { force: true }); }
        seen(relation);
        pointAt(relation);
      }
    }
    counted();
  }
  function seen(part) {
    const [box, frame] = [part.getBoundingClientRect(), field.getBoundingClientRect()];
    const isOut = box.right > frame.right || box.left < frame.left || box.bottom > frame.bottom || box.top < frame.top;
    if (!isOut) return;
    const at = pan.getPan();
    const scale = pan.getScale();
    const dx = box.width < frame.width ? (frame.left + frame.width / 2 - box.left - box.width / 2) / scale : 0;
    const dy = (frame.top + frame.height / 2 - box.top - box.height / 2) / scale;
    pan.pan(at.x + dx, at.y + dy, { force: true });
  }
  function counted() {
    const last = lastStep();
    step = Math.min(step, last);
    by('steps').hidden = last < 2 || comparing;
    by('step').textContent = step ? step + ' / ' + last : String(last);
    by('earlier').disabled = step < 1;
    by('later').disabled = step >= last;
    by('whole').disabled = step < 1;
  }
  const go = (to) => { step = Math.min(Math.max(to, 0), lastStep()); stepped(); };
  by('earlier').addEventListener('click', () => go(step - 1));
  by('later').addEventListener('click', () => go(step + 1));
  by('whole').addEventListener('click', stop);

  // Presenting.
  const isPresenting = () => document.body.classList.contains('presenting');
  async function present(isOn) {
    if (isOn === isPresenting()) return;
    document.body.classList.toggle('presenting', isOn);
    if (isOn) {
      await document.documentElement.requestFullscreen?.().catch(() => {});
      field.tabIndex = -1;
      field.focus();
    } else {
      if (document.fullscreenElement) await document.exitFullscreen().catch(() => {});
      stop();
      by('present').focus();
    }
    fit();
  }
  by('present').addEventListener('click', () => present(true));
  document.addEventListener('fullscreenchange', () => { if (!document.fullscreenElement) present(false); });
  function turn(by_) {
    const all = [...by('picture').options].map((option) => option.value);
    const next = all[all.indexOf(shownPicture) + by_];
    if (next) { picture = next; stop(); draw(true); }
  }

  // Keys of the picture: one part can be reached by Tab, arrows lead from part to part, Alt and an arrow move it.
  function tab(part) {
    parts().forEach((other) => other.setAttribute('tabindex', other === part ? '0' : '-1'));
  }
  const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  function beside(part, [ux, uy]) {
    const middleOf = (of) => { const box = of.getBoundingClientRect(); return [box.left + box.width / 2, box.top + box.height / 2]; };
    const [x, y] = middleOf(part);
    let best = null;
    for (const other of parts()) {
      const [ox, oy] = middleOf(other);
      const along = (ox - x) * ux + (oy - y) * uy;
      if (other === part || along < 1) continue;
      const cost = along + 2 * Math.abs((ox - x) * uy + (oy - y) * ux);
      if (!best || cost < best.cost) best = { other, cost };
    }
    return best?.other;
  }
  let pushed = null;
  function push(part, [ux, uy]) {
    const key = part.dataset.element;
    if (pushed?.key !== key) pushed = { key, by: [0, 0] };
    pushed.by = [pushed.by[0] + 8 * ux, pushed.by[1] + 8 * uy];
    moved(key, pushed.by);
    clearTimeout(pushed.timer);
    pushed.timer = setTimeout(() => { const { by: far } = pushed; pushed = null; nudge(key, far).catch(failed); }, 600);
  }
  addEventListener('keydown', (event) => {
    const arrow = arrows[event.key];
    const part = event.target.closest?.('#sheet [role=button]');
    if (isPresenting() && !event.ctrlKey && !event.metaKey) {
      const forward = ['ArrowRight', 'ArrowDown', ' ', 'PageDown'].includes(event.key);
      const back = ['ArrowLeft', 'ArrowUp', 'PageUp'].includes(event.key);
      if (forward || back) {
        event.preventDefault();
        const canStep = lastStep() > 1 && (forward ? step < lastStep() : step > 0);
        if (canStep) go(step + (forward ? 1 : -1)); else turn(forward ? 1 : -1);
        return;
      }
      if (event.key === 'Escape') { present(false); return; }
    }
    if ((event.ctrlKey || event.metaKey) && event.key === 's') { event.preventDefault(); save().catch(failed); return; }
    if ((event.ctrlKey || event.metaKey) && event.key === 'k') { event.preventDefault(); pick(); return; }
    if (event.ctrlKey && event.key === 'Enter') { event.preventDefault(); present(true); return; }
    if (event.key === 'F6') { event.preventDefault(); if (part) view.focus(); else (sheet.querySelector('[tabindex="0"]') ?? field).focus(); return; }
    if (part && arrow && event.altKey && part.dataset.element !== undefined) { event.preventDefault(); push(part, arrow); return; }
    if (part && (event.ctrlKey || event.metaKey) && event.key === 'z') { event.preventDefault(); undo(view); return; }
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest?.('.cm-editor, dialog, input, select')) return;
    if (part && arrow) {
      event.preventDefault();
      const next = beside(part, arrow);
      if (next) { tab(next); next.focus({ preventScroll: true }); over(next); seen(next); }
      return;
    }
    if (part && event.key === 'Enter') { choose(part); view.focus(); event.preventDefault(); return; }
    if (part && event.key === 'o' && part.dataset.opens) goTo(part.dataset.opens);
    if (event.key === 'Escape') { stop(); over(null); }
    if (event.key === '+') by('larger').click();
    if (event.key === '-') by('smaller').click();
    if (event.key === '0') fit();
    if (event.key === 'n') go(step + 1);
    if (event.key === 'p') go(step - 1);
  });
  sheet.addEventListener('focusin', (event) => { const part = event.target.closest('[role=button]'); if (part) over(part); });

  // Files.
  function shownState() {
    const one = now();
    by('file').textContent = (one?.isNew ? 'new: ' : '') + (file ?? '…');
    const isOpen = one?.isLocked;
    stateNote.className = isDirty() && !isOpen ? 'unsaved' : '';
    stateNote.textContent = isOpen ? 'follows an editor' : one?.isNew && !text() ? '' : isDirty() ? 'not saved' : 'saved';
    by('save').disabled = !isDirty() || isOpen;
    by('heading').textContent = file ?? 'Bathygram';
    document.title = (isDirty() && !isOpen ? '● ' : '') + (file ?? '') + ' · Bathygram';
  }
  addEventListener('beforeunload', (event) => {
    keep();
    if ([...open.values()].some((one) => !one.isLocked && isDirty(one) && (one.state.doc.length || !one.isNew))) event.preventDefault();
  });
  const keep = () => { if (now()) now().state = view.state; };
  async function show_file(name, wanted = null, line = null) {
    keep();
    if (!open.has(name)) {
      const found = await ask('text', { file: name });
      open.set(name, begun(found.text, found.base, found.is_open));
    }
    file = name;
    picture = wanted;
    changes = [];
    step = 0;
    view.setState(now().state);
    lock();
    shownState();
    history_();
    await draw(true);
    if (line) caretTo(view.state.doc.line(Math.min(line, view.state.doc.lines)).from);
  }
  const begun = (content, base, isLocked = false) => ({ state: EditorState.create({ doc: content, extensions: extensions() }), base, saved: content, isLocked });
  function lock() { view.dispatch({ effects: locked.reconfigure(EditorState.readOnly.of(Boolean(now().isLocked))) }); }
  function history_() {
    const hash = '#' + encodeURIComponent(file) + (picture ? '/' + encodeURIComponent(picture) : '');
    if (!now().isNew && location.hash !== hash) window.history.replaceState(null, '', hash);
  }
  // Only what differs is replaced: the caret and the rest of the history stay.
  function become(content, about) {
    const old = text();
    if (old === content) return;
    let start = 0;
    while (start < old.length && start < content.length && old[start] === content[start]) start += 1;
    let end = 0;
    while (end < old.length - start && end < content.length - start && old[old.length - 1 - end] === content[content.length - 1 - end]) end += 1;
    view.dispatch({ changes: { from: start, to: old.length - end, insert: content.slice(start, content.length - end) }, userEvent: about });
  }
  async function save() {
    const one = now();
    if (!one || one.isLocked || !isDirty()) return;
    const content = text();
    const answer = await ask('save', { file, text: content, base: one.isNew ? null : one.base });
    if (answer.saved) {
      Object.assign(one, { base: answer.saved, saved: content });
      if (one.isNew) { one.isNew = false; history_(); await refresh(); }
      notice.hidden = true;
    } else if (answer.changed) {
      conflict(answer.changed);
    } else {
      follow(answer.open);
    }
    shownState();
  }
  // The file is another one by now, and so is the text here: both are shown, and the user says which one stays.
  function conflict(current) {
    const one = now();
    const isTheirs = one.theirs === current.base;
    one.theirs = current.base;
    if (isTheirs && !notice.hidden) return;
    const mine = text();
    tell(file + ' was changed by somebody else, and you have changes that are not saved. Nothing is overwritten.', true, [
      ['Show theirs', () => { Object.assign(one, { base: current.base, saved: current.text }); become(current.text, 'theirs'); shownState(); tell('This is theirs. Undo brings yours back.', false, [['Back to mine', () => { become(mine, 'mine'); shownState(); }], ['Keep theirs', () => {}]]); }],
      ['Keep mine over theirs', () => { one.base = current.base; save().catch(failed); }],
      ['Decide later', () => {}],
    ]);
  }
  function follow(current) {
    const one = now();
    Object.assign(one, { base: current.base, saved: current.text, isLocked: current.is_open });
    become(current.text, 'follow');
    lock();
    shownState();
  }
  async function look() {
    for (const [name, one] of open) {
      if (one.isNew) continue;
      const current = await ask('text', { file: name }).catch(() => null);
      if (!current) { if (name === file && !one.isGone) { one.isGone = true; tell(name + ' is gone. Save writes it again.', true); } continue; }
      one.isGone = false;
      if (current.base === one.base && current.is_open === Boolean(one.isLocked)) continue;
      if (name !== file) { if (!isDirty(one) || current.is_open) open.delete(name); continue; }
      if (!isDirty() || current.is_open || text() === current.text) follow(current); else conflict(current);
    }
    draw(true);
  }
  async function refresh() {
    project = await ask('project');
    const select = by('theme');
    const names = [...new Set([project.theme, ...project.themes])];
    if (select.options.length !== names.length) select.replaceChildren(...names.map((name) => new Option(name, name)));
  }
  by('theme').addEventListener('change', (event) => { theme = event.target.value === project.theme ? null : event.target.value; draw(true); if (comparing) compare(true).catch(failed); });
  by('save').addEventListener('click', () => save().catch(failed));
  async function tidy() { become(await ask('format', { file, text: text(), at: 0 }), 'input.format'); view.focus(); }
  by('tidy').addEventListener('click', () => tidy().catch(failed));

  async function rename() {
    const at = view.state.selection.main.head;
    const there = await ask('rename', { file, text: text(), at, name: null });
    by('called').value = there.old;
    by('renaming-says').textContent = 'In all files of the project where `' + there.old + '` is meant.';
    const dialog = by('renaming');
    dialog.returnValue = 'no';
    dialog.showModal();
    by('called').select();
    dialog.onclose = async () => {
      if (dialog.returnValue !== 'yes') { view.focus(); return; }
      try {
        const found = await ask('rename', { file, text: text(), at, name: by('called').value });
        make(found.edits, 'rename');
        for (const other of found.others) await ask('save', other);
        if (found.others.length) { await save(); tell('Renamed here and in ' + found.others.map((one) => one.file).join(', ') + '.'); }
      } catch (why) { failed(why); }
      view.focus();
    };
  }

  // The list.
  function pick() {
    refresh().then(searched).catch(failed);
    by('find').value = '';
    by('kind').replaceChildren(...project.starters.map(([kind]) => new Option(kind, kind)));
    by('list').showModal();
  }
  function searched() {
    const wanted = by('find').value.trim().toLowerCase();
    const groups = [];
    for (const one of project.files) {
      const own = one.pictures.filter((p) => (p.title + ' ' + p.name + ' ' + p.kind + ' ' + one.file).toLowerCase().includes(wanted));
      if (!own.length && !(one.file.toLowerCase().includes(wanted) && !one.pictures.length)) continue;
      const head = document.createElement('h3');
      head.textContent = one.file + (one.errors ? ' · ' : '');
      if (one.errors) { const bad = document.createElement('span'); bad.className = 'bad'; bad.textContent = one.errors + (one.errors === 1 ? ' error' : ' errors'); head.append(bad); }
      groups.push(head, ...(own.length ? own : [{ title: one.file, name: null, kind: '' }]).map((p) => {
        const button = document.createElement('button');
        const [title, kind] = [document.createElement('span'), document.createElement('span')];
        title.textContent = p.title;
        kind.textContent = p.kind;
        kind.className = 'kind';
        button.append(title, kind);
        button.addEventListener('click', () => { by('list').close(); trail = []; by('back').hidden = true; show_file(one.file, p.name, p.line).catch(failed); });
        return button;
      }));
    }
    if (!groups.length) { const none = document.createElement('p'); none.textContent = 'No picture is called so.'; groups.push(none); }
    by('found').replaceChildren(...groups);
  }
  by('pick').addEventListener('click', pick);
  by('find').addEventListener('input', searched);
  by('find').addEventListener('keydown', (event) => { if (event.key === 'Enter') { event.preventDefault(); by('found').querySelector('button')?.click(); } });
  by('fresh').addEventListener('submit', () => {
    const [kind, name] = [by('kind').value, by('name').value.trim()];
    const starter = project.starters.find(([own]) => own === kind)?.[1] ?? '';
    fresh(name + '.bathy', starter.replaceAll('NAME', name).replaceAll('TITLE', name));
  });
  function fresh(name, content) {
    keep();
    if (open.has(name) || project.files.some((one) => one.file === name)) { tell(name + ' is there already.', true); return; }
    open.set(name, { ...begun(content, null), saved: '', isNew: true });
    file = name;
    picture = null;
    view.setState(now().state);
    shownState();
    draw(true);
    view.focus();
  }

  // Export.
  const forms = [['svg', 'SVG'], ['png', 'PNG'], ['pdf', 'PDF'], ['html', 'Interactive page'], ['json', 'Geometry as JSON'], ['graphml', 'GraphML']];
  for (const [format, label] of forms) {
    const button = document.createElement('button');
    button.textContent = label;
    button.dataset.form = format;
    button.addEventListener('click', async () => {
      try {
        const blob = await ask('export', { file, text: text(), picture: shownPicture, theme, format }, 'blob');
        const link = document.createElement('a');
        link.href = URL.createObjectURL(blob);
        link.download = shownPicture.split('/').pop() + '.' + format;
        link.click();
        setTimeout(() => URL.revokeObjectURL(link.href), 60000);
        by('copied').textContent = link.download + ' is among your downloads.';
      } catch (why) { failed(why); }
    });
    by('forms').append(button);
  }
  for (const [what, label] of [['link', 'Copy a link that holds the picture'], ['markdown', 'Copy Markdown'], ['html', 'Copy HTML']]) {
    const button = document.createElement('button');
    button.textContent = label;
    button.addEventListener('click', async () => {
      try {
        const found = await ask('share', { file, text: text(), picture: shownPicture, theme });
        await navigator.clipboard.writeText(found[what]);
        by('copied').textContent = 'It is on the clipboard, ' + found[what].length + ' letters.';
      } catch (why) { if (why instanceof Refused) failed(why); else by('copied').textContent = 'This browser does not let pages write to the clipboard.'; }
    });
    by('snippets').append(button);
  }
  by('export').addEventListener('click', () => { by('copied').textContent = ''; by('exports').showModal(); });

  // Compare.
  let comparing = false;
  let compared = null;
  async function compare(isOn) {
    comparing = isOn;
    by('compare').setAttribute('aria-pressed', String(isOn));
    by('sides').hidden = !isOn;
    by('says').hidden = !isOn;
    if (!isOn) { compared = null; draw(true); return; }
    stop();
    try {
      compared = await ask('compare', { file, text: text(), picture: shownPicture, theme });
    } catch (why) { failed(why); compare(false); return; }
    style.replaceSync(compared.style);
    by('says').replaceChildren(...(compared.says.length ? compared.says : [{ fate: '', sentence: compared.before ? 'Nothing changed since the last commit.' : 'The last commit has no such picture.' }]).map((one) => {
      const item = document.createElement('li');
      item.className = one.fate;
      item.textContent = one.sentence.replaceAll('`', '');
      return item;
    }));
    for (const button of by('sides').children) button.disabled = !compared[button.dataset.side];
    side(compared.changes ? 'changes' : compared.after ? 'after' : 'before', true);
  }
  function side(which, isFirst = false) {
    for (const button of by('sides').children) button.setAttribute('aria-pressed', String(button.dataset.side === which));
    put(compared[which], isFirst, false);
  }
  by('compare').addEventListener('click', () => compare(!comparing).catch(failed));
  by('sides').addEventListener('click', (event) => { if (event.target.dataset.side) side(event.target.dataset.side); });

  // The divider.
  const divider = by('divider');
  function divide(percent) {
    const share = Math.min(Math.max(percent, 15), 85);
    divider.setAttribute('aria-valuenow', String(Math.round(share)));
    document.body.style.setProperty('--width', share + 'fr');
    document.body.style.setProperty('--rest', 100 - share + 'fr');
  }
  divider.addEventListener('pointerdown', (event) => { divider.setPointerCapture(event.pointerId); event.preventDefault(); });
  divider.addEventListener('pointermove', (event) => { if (divider.hasPointerCapture(event.pointerId)) divide(100 * event.clientX / innerWidth); });
  divider.addEventListener('keydown', (event) => {
    const by_ = { ArrowLeft: -4, ArrowRight: 4 }[event.key];
    if (by_) { divide(Number(divider.getAttribute('aria-valuenow')) + by_); event.preventDefault(); }
  });

  // Keys in words.
  const keyWords = [
    ['Ctrl S', 'save'], ['Ctrl K', 'find a picture'], ['Ctrl Shift F', 'format the text'], ['F2', 'rename what the caret is on, everywhere'],
    ['Ctrl Space', 'complete'], ['F8', 'next finding'], ['F6', 'from the text to the picture and back'],
    ['arrows', 'in the picture: from part to part'], ['Enter', 'in the picture: to the line of a part'], ['Alt arrows', 'in the picture: move a part'],
    ['o', 'in the picture: open what is inside'], ['n p', 'in the picture: next step, step back'], ['+ − 0', 'in the picture: larger, smaller, fit'],
    ['Ctrl Enter', 'present; arrows lead through steps and pictures, Escape ends'],
  ];
  for (const [key, what] of keyWords) {
    const [term, words] = [document.createElement('dt'), document.createElement('dd')];
    term.textContent = key;
    words.textContent = what;
    by('keys-list').append(term, words);
  }
  by('help').addEventListener('click', () => by('keys').showModal());
  for (const dialog of document.querySelectorAll('dialog')) {
    dialog.addEventListener('click', (event) => { if (event.target === dialog) dialog.close(); });
  }

  // News.
  function listen() {
    const events = new EventSource('events');
    events.onmessage = (event) => {
      if (event.data.startsWith('show ')) show_file(event.data.slice(5)).catch(failed); else look().catch(failed);
    };
    let wasLost = false;
    events.onerror = () => { if (!wasLost) { wasLost = true; tell('The preview has ended, or cannot be reached. Your text is still here.', true); } };
    events.onopen = () => { if (wasLost) { wasLost = false; notice.hidden = true; look().catch(failed); } };
  }
  (async () => {
    await refresh();
    const [wanted, own] = location.hash.slice(1).split('/').map(decodeURIComponent);
    const known = project.files.find((one) => one.file === wanted) ?? project.files[0];
    if (known) await show_file(known.file, known.file === wanted ? own ?? null : null); else fresh('first.bathy', '');
    listen();
    document.body.dataset.ready = 'true';
  })().catch(failed);
})();
