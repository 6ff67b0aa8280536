-- +goose Up
alter table users
    add column signed_out_at timestamptz,              -- sessions that began before are over
    add column totp_secret bytea,                      -- of time-based codes (RFC 6238); null for none
    add column totp_step bigint not null default 0;    -- the last one used: each code is used once
create table recovery_codes (
    user_id uuid not null references users on delete cascade,
    hash bytea not null,
    primary key (user_id, hash)
);

-- +goose Down
drop table recovery_codes;
alter table users drop column signed_out_at, drop column totp_secret, drop column totp_step;
