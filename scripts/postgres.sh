# Helpers for a private PostgreSQL on loopback; sourced by start, test and bench.
# Everything lies below one folder: data, password, socket, log.

say_and_stop() { printf '%s\n' "$1" >&2; exit 1; }

install_debian() { # package names
  command -v apt-get >/dev/null || say_and_stop "Please install: $*"
  [ "$(id -u)" = 0 ] || say_and_stop "Please install (as root): apt-get install $*"
  local log
  log=$(mktemp)
  echo "Installing $* …" >&2
  { apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@"; } >"$log" 2>&1 || say_and_stop "Installing $* failed; see $log"
  rm -f "$log"
}

find_postgres() { # sets PG_BIN
  PG_BIN=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1 || true)
  if [ -z "$PG_BIN" ] || [ ! -x "$PG_BIN/initdb" ]; then
    if command -v initdb >/dev/null && command -v pg_ctl >/dev/null && [ "$(id -u)" != 0 ]; then PG_BIN=$(dirname "$(readlink -f "$(command -v initdb)")"); return; fi
    install_debian postgresql
    PG_BIN=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
  fi
}

# PostgreSQL refuses to run as root; as root it runs as the user that the package made.
as_pg() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

free_port() { # a port that nothing listens on
  local p
  for p in $(shuf -i 20000-29999 -n 50); do
    (exec 3<>"/dev/tcp/127.0.0.1/$p") 2>/dev/null || { echo "$p"; return; }
  done
  say_and_stop "No free port was found."
}

port_is_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

start_postgres() { # DIR -> sets PG_DIR, PG_PORT, PG_CONNECTION
  PG_DIR=$1
  mkdir -p "$PG_DIR"
  if [ "$(id -u)" = 0 ]; then
    chown postgres: "$PG_DIR"
    as_pg test -x "$PG_DIR" || say_and_stop "The folder $PG_DIR cannot be reached by the user postgres. Choose another with --data."
  fi
  chmod 700 "$PG_DIR"
  if [ ! -s "$PG_DIR/password" ]; then
    [ ! -s "$PG_DIR/db/PG_VERSION" ] || say_and_stop "There is a database in $PG_DIR, but its password file is missing. Put it back, or choose another folder with --data."
    (umask 077; head -c 24 /dev/urandom | base64 | tr -d '/+=\n' >"$PG_DIR/password.new")
    [ -s "$PG_DIR/password.new" ] || say_and_stop "The folder $PG_DIR cannot be written to. Is the disk full?"
    [ "$(id -u)" != 0 ] || chown postgres: "$PG_DIR/password.new"
    mv "$PG_DIR/password.new" "$PG_DIR/password"
  fi
  # Made beside its place and moved there when it is whole, so that what was interrupted is never taken for a database.
  if [ ! -s "$PG_DIR/db/PG_VERSION" ]; then
    rm -rf "$PG_DIR/db" "$PG_DIR/db.new"
    as_pg "$PG_BIN/initdb" -D "$PG_DIR/db.new" -U unicus -A scram-sha-256 --pwfile="$PG_DIR/password" -E UTF8 --locale=C.UTF-8 >"$PG_DIR/initdb.log" 2>&1 \
      || say_and_stop "The database could not be made; see $PG_DIR/initdb.log"
    mv "$PG_DIR/db.new" "$PG_DIR/db"
  fi
  # One that runs is taken as it is: a process of the shop that was started by hand may be at work on it.
  if as_pg "$PG_BIN/pg_ctl" -D "$PG_DIR/db" status >/dev/null 2>&1; then
    PG_PORT=$(as_pg sed -n 4p "$PG_DIR/db/postmaster.pid")
  else
    # A folder keeps its port, so that whoever was told of it finds the database again.
    PG_PORT=$(cat "$PG_DIR/port" 2>/dev/null || true)
    if [ -z "$PG_PORT" ] || port_is_taken "$PG_PORT"; then PG_PORT=$(free_port); fi
    run_postgres || say_and_stop "PostgreSQL did not start; see $PG_DIR/log"
    echo "$PG_PORT" >"$PG_DIR/port"
  fi
  make_shop_database
  PG_CONNECTION="Host=127.0.0.1;Port=$PG_PORT;Username=shop;Password=$(cat "$PG_DIR/password.shop");Database=unicus;Maximum Pool Size=60"
}

run_postgres() {
  # A process group of its own, so that Ctrl-C reaches the application first and the database after it.
  setsid bash -c "$(declare -f as_pg); as_pg '$PG_BIN/pg_ctl' -D '$PG_DIR/db' -l '$PG_DIR/log' -o '-p $PG_PORT -c listen_addresses=127.0.0.1 -k $PG_DIR -c max_connections=200 ${PG_EXTRA:-}' -w start" >/dev/null 2>&1 </dev/null 9>&-
}

# As the role that the cluster was made with; the application never is this one.
keeper_sql() { PGPASSWORD=$(cat "$PG_DIR/password") "$PG_BIN/psql" -h 127.0.0.1 -p "$PG_PORT" -U unicus -v ON_ERROR_STOP=1 -qtA "$@"; }

# The application's own role may do what it likes in its own database and nothing else: it is no superuser and runs no programs.
make_shop_database() {
  if [ ! -s "$PG_DIR/password.shop" ]; then
    (umask 077; head -c 24 /dev/urandom | base64 | tr -d '/+=\n' >"$PG_DIR/password.shop.new")
    [ -s "$PG_DIR/password.shop.new" ] || say_and_stop "The folder $PG_DIR cannot be written to. Is the disk full?"
    mv "$PG_DIR/password.shop.new" "$PG_DIR/password.shop"
  fi
  [ "$(id -u)" != 0 ] || chown postgres: "$PG_DIR/password.shop"
  [ "$(keeper_sql -d postgres -c "select count(*) from pg_database d join pg_roles r on r.oid = d.datdba where datname = 'unicus' and rolname = 'shop'")" != 1 ] || return 0
  keeper_sql -d postgres -c "do \$\$ begin create role shop login; exception when duplicate_object then null; end \$\$" \
    -c "alter role shop password '$(cat "$PG_DIR/password.shop")' nosuperuser ${PG_ROLE:-nocreatedb}" || say_and_stop "The database's role could not be made."
  [ "$(keeper_sql -d postgres -c "select count(*) from pg_database where datname = 'unicus'")" = 1 ] || keeper_sql -d postgres -c 'create database unicus'
  # What an earlier version made as the cluster's own role becomes the shop's.
  keeper_sql -d unicus <<'SQL' >/dev/null || say_and_stop "The database could not be given to its role."
do $$
declare o record;
begin
  for o in select format('alter %s %s owner to shop', case c.relkind when 'S' then 'sequence' when 'v' then 'view' else 'table' end, c.oid::regclass) as sql
    from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where n.nspname = 'public' and c.relkind in ('r', 'p', 'v', 'S')
      and not exists (select 1 from pg_depend d where d.objid = c.oid and d.deptype in ('e', 'a', 'i'))
  loop execute o.sql; end loop;
  for o in select format('alter routine %s owner to shop', p.oid::regprocedure) as sql
    from pg_proc p join pg_namespace n on n.oid = p.pronamespace
    where n.nspname = 'public' and not exists (select 1 from pg_depend d where d.objid = p.oid and d.deptype = 'e')
  loop execute o.sql; end loop;
end $$;
alter schema public owner to shop;
alter database unicus owner to shop;
SQL
}

# Whether somebody else is at work on the database of the folder.
others_at_work() { [ "$(keeper_sql -d postgres -c "select count(*) from pg_stat_activity where datname = 'unicus' and backend_type = 'client backend'" 2>/dev/null || echo 0)" != 0 ]; }

stop_postgres() { [ ! -d "${PG_DIR:-}/db" ] || as_pg "$PG_BIN/pg_ctl" -D "$PG_DIR/db" -m fast -w stop >/dev/null 2>&1 || true; }

# The database that UNICUS_DATABASE names, else the one of a data folder: sets PGHOST, PGPORT, PGUSER, PGPASSWORD, PGDATABASE for the
# tools of PostgreSQL. A database of a folder that does not run is started for as long as this does.
reach_database() { # DATA -> sets REACHED
  find_postgres
  REACHED=""
  if [ -n "${UNICUS_DATABASE:-}" ]; then
    local pair name value
    while IFS= read -r -d ';' pair || [ -n "$pair" ]; do
      name=$(tr '[:upper:]' '[:lower:]' <<<"${pair%%=*}" | tr -d ' ') value=${pair#*=}
      case $name in
        host | server) export PGHOST=$value ;;
        port) export PGPORT=$value ;;
        username | userid | user) export PGUSER=$value ;;
        password) export PGPASSWORD=$value ;;
        database) export PGDATABASE=$value ;;
        sslmode) export PGSSLMODE=$(tr '[:upper:]' '[:lower:]' <<<"$value") ;;
      esac
    done <<<"${UNICUS_DATABASE};"
    return
  fi
  local folder=$1/postgres
  if as_pg "$PG_BIN/pg_ctl" -D "$folder/db" status >/dev/null 2>&1; then
    start_postgres "$folder"
  else
    start_postgres "$folder"
    REACHED=started
  fi
  export PGHOST=127.0.0.1 PGPORT=$PG_PORT PGUSER=shop PGDATABASE=unicus PGPASSWORD
  PGPASSWORD=$(as_pg cat "$folder/password.shop")
}

# The folder that ./start uses unless it is told another.
usual_data() { # HERE
  if [ "$(id -u)" = 0 ] && ! as_pg test -x "$1"; then echo "/var/lib/unicus/$(printf %s "$1" | cksum | cut -d' ' -f1)"; else echo "$1/.data"; fi
}

# The version that served the shop last; from before versions were kept: none.
served_by() { "$PG_BIN/psql" -tAc "select coalesce(to_jsonb(s)->>'served_by', 'before 1.0.0') from shop s" 2>/dev/null || echo "of an unknown version"; }
