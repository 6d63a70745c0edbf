/** The tables of the Lowmere Navigation. */
export const schemaStatements = [
  `create type direction as enum ('up', 'down')`,
  `create type passage_status as enum
     ('expected', 'waiting', 'passed', 'corrected', 'disputed', 'waived', 'turned back')`,
  `create type hull as enum ('narrow', 'barge', 'cruiser', 'tug', 'ferry')`,
  `create table canals (
     id int primary key,
     name text not null unique,
     opened_on date not null,
     length_km numeric(6,2) not null,
     max_draught_m numeric(4,2) not null,
     tidal boolean not null)`,
  `create table locks (
     id int primary key,
     canal_id int not null references canals,
     name text not null,
     position_km numeric(6,2) not null,
     rise_m numeric(4,2) not null,
     chamber_m numrange not null,
     opens_at time not null,
     closes_at time not null,
     automatic boolean not null)`,
  `create table keepers (
     id int primary key,
     lock_id int references locks,
     name text not null,
     since date not null,
     languages text[] not null,
     retired boolean not null)`,
  `create table owners (
     id int primary key,
     name text not null,
     town text not null,
     account uuid not null unique,
     email text,
     member_since date not null)`,
  `create table boats (
     id int primary key,
     owner_id int references owners,
     name text not null,
     picture text not null,
     hull hull not null,
     length_m numeric(5,2) not null,
     draught_m numeric(4,2) not null,
     built smallint,
     horsepower real,
     crew text[] not null,
     equipment jsonb not null)`,
  `create table passages (
     id bigint primary key,
     passed_at timestamptz not null,
     lock_id int not null,
     boat_id int not null,
     keeper_id int,
     direction direction not null,
     draught_m numeric(4,2) not null,
     wait_minutes int not null,
     crossing interval not null,
     toll numeric(8,2),
     status passage_status not null,
     note text)`,
  `comment on table passages is 'A boat went through a lock'`,
  `comment on column passages.toll is 'In florins; missing when the boat is exempt'`,
  `comment on column passages.wait_minutes is 'From arrival at the lock to the opening of the gate'`,
] as const;

/**
 * Made after the rows, which is quicker. `wait_minutes`, `draught_m` and `crossing` have no
 * index: sorting by them is honest work.
 */
export const indexStatements = [
  `create index on locks (canal_id, position_km)`,
  `create index on keepers (lock_id)`,
  `create index on owners (name)`,
  `create index on boats (name)`,
  `create index on boats (owner_id)`,
  `create index on passages (passed_at, id)`,
  `create index on passages (toll, id)`,
  `create index on passages (status, id)`,
  `create index on passages (lock_id, passed_at)`,
  `create index on passages (boat_id, passed_at)`,
  `create index on passages (keeper_id)`,
  `alter table passages
     add foreign key (lock_id) references locks,
     add foreign key (boat_id) references boats,
     add foreign key (keeper_id) references keepers`,
] as const;
