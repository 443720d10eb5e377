//! An editor that nobody sees: Neovim, with nothing in it but its own client for language servers. All of it is in the tests.
