/** Most bytes of a file that is sent: a year of orders of a large customer is a tenth of it. */
export const mostFileBytes = 40 * 1024 * 1024
