/** What each role may do; the server decides, the page only does not offer what would be refused. */
export type Role = "engineer" | "technician" | "viewer";

export const mayEdit = (role: Role | undefined): boolean => role === "engineer";
/** Starts plates, ticks travellers, counts parts. */
export const mayPrint = (role: Role | undefined): boolean => role === "engineer" || role === "technician";
export const mayExport = (role: Role | undefined): boolean => role === "engineer" || role === "technician";
