/**
 * The colours of pictures by name: what is drawn by the graphics card or printed takes them from here, everything else
 * takes the theme's own from index.css, which has the first eight in both themes.
 */
export const PAPER = "#f3f0e3";
export const RAISED = "#faf8ef";
export const INK = "#22261f";
export const SECOND_INK = "#5c5847";
export const BARK = "#6b5844";
export const LICHEN = "#6f9c85";
export const MOSS = "#3f7478";
/** Fails. */
export const CROWN = "#b3261e";
export const CROWN_PALE = "#d96b5c";
/** Doubtful. */
export const OCHRE = "#c98a1b";
/** Holds, in a field of many faces. */
export const PALE_LICHEN = "#8fae95";
/** Area of a section in a log. */
export const SAND = "#b9ad86";
/** What a remedy changes. */
export const DEEP_MOSS = "#1f6f6b";

/** The same lit, where one of many is looked at. */
export const CROWN_LIT = "#e0382e";
export const OCHRE_LIT = "#f0a81f";
export const LICHEN_LIT = "#4f9a70";
