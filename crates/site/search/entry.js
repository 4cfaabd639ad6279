import MiniSearch from 'minisearch';

globalThis.MiniSearch = MiniSearch;
