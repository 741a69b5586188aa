import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

const icon = (size: number, purpose: string) => ({
  src: `/icon-${size}.png`,
  sizes: `${size}x${size}`,
  type: "image/png",
  purpose,
});

/** Installed, it opens without the server: its own files are on the tablet, and so is the core once a run was open. */
const installs = VitePWA({
  registerType: "autoUpdate",
  injectRegister: "script-defer",
  manifest: {
    name: "Tight Ledger",
    short_name: "Tight Ledger",
    description: "Find, prepare, tighten, record",
    display: "standalone",
    start_url: "/",
    background_color: "#f4f2ea",
    theme_color: "#5b3d78",
    icons: [icon(192, "any"), icon(512, "any"), icon(512, "maskable")],
  },
  workbox: {
    globPatterns: ["**/*.{js,css,html,woff2,svg}", "icon-*.png"],
    globIgnores: ["core/**"],
    navigateFallback: null,
    skipWaiting: true,
    clientsClaim: true,
    cleanupOutdatedCaches: true,
    runtimeCaching: [
      {
        urlPattern: ({ request, url }) => request.mode === "navigate" && !url.pathname.startsWith("/api/"),
        handler: "NetworkFirst",
        options: { cacheName: "page", networkTimeoutSeconds: 2, precacheFallback: { fallbackURL: "index.html" } },
      },
      {
        urlPattern: ({ url }) => url.pathname === "/core/core.json",
        handler: "NetworkFirst",
        options: { cacheName: "core", networkTimeoutSeconds: 2 },
      },
      {
        urlPattern: ({ url }) => url.pathname.startsWith("/core/"),
        handler: "CacheFirst",
        options: { cacheName: "core", expiration: { maxEntries: 24 } },
      },
    ],
  },
});

/** What the first screens share, in one file: on a slow line each file more is a way there and back. */
const shell =
  /node_modules\/(react|react-dom|scheduler|react-router|react-error-boundary|@tanstack|openapi-fetch|idb|uuid|cookie|set-cookie-parser)\/|src\/(api|core|parts)\/(?!scanWorker|Scanner|worker|CurvesPicture|TriesPicture|PlotPicture|takeAway|Axis|AsTable|MachinePicture|ScalePicture|Dial|JointPicture|BandBar|useFields)|lucide-react\/dist\/esm\/(createLucideIcon|Icon|defaultAttributes|shared|context)/;

export default defineConfig({
  plugins: [react(), tailwindcss(), installs],
  build: {
    target: "es2022",
    assetsInlineLimit: 0,
    rolldownOptions: { output: { advancedChunks: { groups: [{ name: "shell", test: shell }] } } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8437" } },
});
