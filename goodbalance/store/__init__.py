"""What is kept in MariaDB: people, stations, and each station's record."""
