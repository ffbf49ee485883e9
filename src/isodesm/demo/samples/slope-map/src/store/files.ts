/** The few file functions that the page's host lends. */
export function appendFileSync(path: string, text: string): void {
  const before = localStorage.getItem(path) ?? '';
  localStorage.setItem(path, before + text);
}
