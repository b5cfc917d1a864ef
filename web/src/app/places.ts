/** The views that the rail and the search of commands lead to, each with the path of its mark. */
export const PLACES = [
  { name: "Shelf", to: "/shelf", mark: "M4 5h3v14H4zM9 8h3v11H9zM14.2 6.2l2.9-.8 3.4 12.7-2.9.8z" },
  { name: "Orders", to: "/order", mark: "M4 6h2M4 12h2M4 18h2M9 6h11M9 12h7M9 18h11" },
  { name: "Pressings", to: "/press", mark: "M4 20h16M6 16h12v4H6zM12 3v9M8.5 9l3.5 3.5L15.5 9M5 4h14" },
  { name: "Proof", to: "/proof", mark: "M5 4h14v16H5zM8.5 12l2.5 2.5 4.5-5" },
  { name: "Outbox", to: "/send", mark: "M3 11.5L21 4l-5.5 16-4-7zM11.5 13L21 4" },
  { name: "Tags", to: "/tags", mark: "M4 4h8l8 8-8 8-8-8zM8.5 8.5h.01" },
  { name: "Briefs", to: "/briefs", mark: "M6 3h9l4 4v14H6zM15 3v4h4M9 12h7M9 16h7" },
] as const;
