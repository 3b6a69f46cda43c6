/** Holds a data folder for this process; throws a SetupError that says where Muscovite runs from it already. Answers what lets it go. */
export declare function holdFolder(dataFolder: string, port: number): () => void
