/** What is done when the server turns out to have been restored, before anything of it is shown. Set by the courier. */
export const restored: { found: () => Promise<void> } = { found: async () => undefined };
