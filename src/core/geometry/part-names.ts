/** Whether a part's name says what it is, and is not what a modelling program gives by itself. */
export const isTellingName = (name: string): boolean =>
  !/^$|^(mesh|object|node|group|cube|box|polysurface)[\s._-]*\d*$/i.test(name)
