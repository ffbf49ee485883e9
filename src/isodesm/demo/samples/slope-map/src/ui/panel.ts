/** What a panel needs: `supplies` lists the services that each panel of this kind gets objects of its own of. */
export interface PanelOptions {
  tag: string;
  supplies?: readonly (new (...args: never[]) => unknown)[];
}

const panels = new Map<string, PanelOptions>();

/** Makes a class a panel of the page. */
export function Panel(options: PanelOptions) {
  return (target: Function): void => {
    panels.set(target.name, options);
  };
}

export function optionsOf(panel: Function): PanelOptions | undefined {
  return panels.get(panel.name);
}
