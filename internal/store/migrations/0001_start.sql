-- +goose Up

create table accounts (
    id         bigint generated always as identity primary key,
    email      text not null unique,
    name       text not null,
    password   text not null, -- argon2id, in PHC form
    created_at timestamptz not null default now()
);

create table sessions (
    token  text primary key,
    data   bytea not null,
    expiry timestamptz not null
);
create index sessions_expiry on sessions (expiry);

create table sites (
    id         bigint generated always as identity primary key,
    key        text not null unique, -- what the script line carries
    name       text not null,
    zone       text not null,
    origins    json not null,
    snapshot   bigint not null default 0, -- counts launches and rests
    created_at timestamptz not null default now()
);

create table members (
    site_id    bigint not null references sites,
    account_id bigint not null references accounts,
    primary key (site_id, account_id)
);

create table pieces (
    site_id       bigint not null references sites,
    id            text not null,
    state         text not null default 'draft' check (state in ('draft', 'live', 'resting', 'over')),
    draft         json not null,
    draft_version int not null default 1,
    live          json,
    live_version  int, -- the draft version that was launched
    live_since    timestamptz,
    rested_at     timestamptz,
    created_at    timestamptz not null default now(),
    updated_at    timestamptz not null default now(),
    removed_at    timestamptz,
    primary key (site_id, id)
);

-- What visitors get, by its content; kept for pages that are still open.
create table designs (
    site_id    bigint not null references sites,
    hash       text not null,
    body       bytea not null,
    created_at timestamptz not null default now(),
    primary key (site_id, hash)
);

create table pictures (
    site_id    bigint not null references sites,
    hash       text not null,
    name       text not null,
    mime       text not null,
    width      int not null,
    height     int not null,
    body       bytea not null,
    created_at timestamptz not null default now(),
    primary key (site_id, hash)
);

create index pictures_by_hash on pictures (hash);

create table events (
    site_id     bigint not null references sites,
    id          uuid not null,
    at          timestamptz not null,
    received_at timestamptz not null default now(),
    kind        text not null check (kind in ('shown', 'closed', 'converted')),
    piece_id    text not null,
    variant     text not null,
    visitor     text not null,
    visit       text not null,
    page        text not null,
    primary key (site_id, id)
);

-- Each visitor of each variant, once.
create table seen (
    site_id      bigint not null references sites,
    piece_id     text not null,
    variant      text not null,
    visitor      text not null,
    first_at     timestamptz not null,
    day          date not null, -- of first_at, in the site's zone
    showings     int not null,
    converted_at timestamptz,
    converted_by uuid, -- the event that first did
    primary key (site_id, piece_id, variant, visitor)
);

-- Rolled up by the day a visitor first saw the variant, so that a rate over
-- any days is of the same people above and below the line.
create table piece_days (
    site_id     bigint not null references sites,
    piece_id    text not null,
    variant     text not null,
    day         date not null,
    visitors    int not null default 0,
    showings    int not null default 0,
    conversions int not null default 0,
    primary key (site_id, piece_id, variant, day)
);

create table leads (
    site_id   bigint not null references sites,
    id        bigint generated always as identity,
    email     text not null,
    email_key text not null, -- in lower case
    name      text not null,
    first_at  timestamptz not null,
    last_at   timestamptz not null,
    primary key (site_id, id),
    unique (site_id, email_key)
);
create index leads_latest on leads (site_id, last_at desc, id desc);

create table submissions (
    site_id  bigint not null references sites,
    id       uuid not null,
    lead_id  bigint,
    piece_id text not null,
    variant  text not null,
    visitor  text not null,
    page     text not null,
    channel  text not null,
    campaign text not null,
    referrer text not null,
    answers  json not null,
    at       timestamptz not null,
    primary key (site_id, id)
);
create index submissions_of_lead on submissions (site_id, lead_id, at desc);
create index submissions_of_piece on submissions (site_id, piece_id, at desc);

-- +goose Down
drop table submissions, leads, piece_days, seen, events, pictures, designs, pieces, members, sites, sessions, accounts;
