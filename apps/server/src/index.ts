console.log('server')
