'use strict';
(() => {
  const words = JSON.parse(document.getElementById('site-words').textContent);
  const root = document.body.dataset.root;
  const box = document.querySelector('.search');
  const input = document.getElementById('search');
  const results = document.getElementById('results');
  const counted = document.getElementById('counted');
  const most = 20;
  box.hidden = false;
  // Without scripts there is no search, and no list of what it found.
  const set = (element, attributes) => Object.entries(attributes).forEach(([name, value]) => element.setAttribute(name, value));
  set(input, { role: 'combobox', 'aria-expanded': 'false', 'aria-controls': 'results', 'aria-autocomplete': 'list' });
  set(results, { role: 'listbox', 'aria-label': words.results });

  // The entries are loaded when somebody begins to search: few do, and a large site has many.
  let ready = null;
  function load(file) {
    return new Promise((done, failed) => {
      const script = document.createElement('script');
      script.src = root + file;
      script.addEventListener('load', done);
      script.addEventListener('error', failed);
      document.head.append(script);
    });
  }
  function engine() {
    ready ??= Promise.all([load('assets/search.js'), load('assets/index.js')]).then(() => {
      const search = new MiniSearch({
        fields: ['title', 'more', 'around'],
        storeFields: ['title', 'address', 'kind', 'around'],
        searchOptions: { boost: { title: 4, more: 2 }, prefix: true, fuzzy: (term) => (term.length > 4 ? 0.2 : false), combineWith: 'AND' },
      });
      search.addAll(window.bathygramIndex.map(([title, address, kind, around, more], id) => ({ id, title, address, kind, around, more })));
      return search;
    });
    return ready;
  }

  let chosen = -1;
  const options = () => [...results.querySelectorAll('a')];
  function choose(at) {
    const all = options();
    chosen = all.length ? (at + all.length) % all.length : -1;
    all.forEach((option, i) => option.setAttribute('aria-selected', i === chosen ? 'true' : 'false'));
    if (chosen < 0) { input.removeAttribute('aria-activedescendant'); return; }
    input.setAttribute('aria-activedescendant', all[chosen].id);
    all[chosen].scrollIntoView({ block: 'nearest' });
  }
  function close() {
    results.hidden = true;
    input.setAttribute('aria-expanded', 'false');
    input.removeAttribute('aria-activedescendant');
    chosen = -1;
  }
  async function show() {
    const wanted = input.value.trim();
    if (!wanted) { close(); counted.textContent = ''; return; }
    const search = await engine();
    if (input.value.trim() !== wanted) return;
    const found = search.search(wanted);
    const shown = found.slice(0, most).map((entry, i) => {
      const option = document.createElement('a');
      option.href = root + entry.address;
      option.id = 'result-' + i;
      option.setAttribute('role', 'option');
      option.tabIndex = -1;
      const name = document.createElement('strong');
      name.textContent = entry.title;
      const about = document.createElement('span');
      about.className = 'quiet';
      about.textContent = [entry.kind, entry.around].filter(Boolean).join(', ');
      option.append(name, ' ', about);
      return option;
    });
    counted.textContent = found.length ? words.found.replace('{n}', found.length) : words.nothing;
    if (!shown.length) {
      const none = document.createElement('div');
      none.setAttribute('role', 'option');
      none.setAttribute('aria-selected', 'false');
      none.className = 'quiet';
      none.textContent = words.nothing;
      shown.push(none);
    }
    results.replaceChildren(...shown);
    results.hidden = false;
    input.setAttribute('aria-expanded', 'true');
    choose(0);
  }
  input.addEventListener('focus', engine, { once: true });
  input.addEventListener('input', show);
  input.addEventListener('keydown', (event) => {
    if (event.key === 'ArrowDown') { event.preventDefault(); choose(chosen + 1); }
    if (event.key === 'ArrowUp') { event.preventDefault(); choose(chosen - 1); }
    if (event.key === 'Enter' && options()[chosen]) location.href = options()[chosen].href;
    if (event.key === 'Escape') { input.value = ''; close(); }
  });
  document.addEventListener('pointerdown', (event) => { if (!box.contains(event.target)) close(); });
  document.addEventListener('keydown', (event) => {
    if (event.key !== '/' || event.ctrlKey || event.metaKey || event.altKey || event.target.matches('input, textarea')) return;
    event.preventDefault();
    input.focus();
  });
})();
