// What the page needs of CodeMirror 6: `cargo xtask page` bundles it into ../editor.js as the global `Editor`.
export { ChangeSet, Compartment, EditorSelection, EditorState, StateEffect, StateField, Transaction } from '@codemirror/state';
export {
  Decoration, EditorView, drawSelection, gutter, GutterMarker, highlightActiveLine, highlightActiveLineGutter,
  highlightSpecialChars, hoverTooltip, keymap, lineNumbers, placeholder, showPanel,
} from '@codemirror/view';
export { codeFolding, foldGutter, foldKeymap, foldService, indentUnit } from '@codemirror/language';
export {
  defaultKeymap, history, historyKeymap, indentLess, indentMore, isolateHistory, redo, toggleComment, undo,
} from '@codemirror/commands';
export { autocompletion, closeBrackets, closeBracketsKeymap, completionKeymap, completionStatus, startCompletion } from '@codemirror/autocomplete';
export { forceLinting, lintGutter, lintKeymap, nextDiagnostic, openLintPanel, setDiagnostics } from '@codemirror/lint';
export { highlightSelectionMatches, openSearchPanel, search, searchKeymap } from '@codemirror/search';
