package people

// Provisional begins the id of an account that is known by its login only.
const Provisional = "@"
